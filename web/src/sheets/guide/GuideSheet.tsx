// The guide, as it is in the docs: read within the bench, at the section that a word leads to.
import { marked } from 'marked'
import { useLayoutEffect, useRef } from 'react'
import text from '../../../../docs/guide.md?raw'
import { sectionId } from '@/game/glossary'

/** Its pictures, by the name that the text has for them. */
const PICTURES = import.meta.glob<string>('../../../../docs/guide/*.png', {
  eager: true,
  query: '?url',
  import: 'default',
})

const html = marked
  .parse(text, { async: false })
  .replace(/src="(guide\/[\w-]+\.png)"/g, (_, name: string) => {
    const found = Object.keys(PICTURES).find((path) => path.endsWith(`docs/${name}`))
    return `src="${found ? PICTURES[found] : ''}"`
  })
  // What lies beside the guide is read there: within the bench its place is told.
  .replace(
    /<a href="(?![a-z]+:|#)([^"#]+)[^"]*">(.*?)<\/a>/g,
    (_, path: string, words: string) => `${words} (<code>docs/${path}</code>)`,
  )

export function GuideSheet({ id }: { id: string }) {
  const ref = useRef<HTMLElement>(null)
  useLayoutEffect(() => {
    const heads = [...(ref.current?.querySelectorAll('h1, h2, h3') ?? [])]
    for (const head of heads) head.id = `guide-${sectionId(head.textContent ?? '')}`
    heads.find((head) => head.id === `guide-${id}`)?.scrollIntoView()
  }, [id])
  return (
    <article
      ref={ref}
      className="guide max-w-[720px] px-5 pb-16 pt-3"
      // Our own words, put in at the build.
      dangerouslySetInnerHTML={{ __html: html }}
    />
  )
}
