// What a sheet is called: changed where it stands, and open from the start on what was just made.
import type { Failure } from '@/game/store'
import { isProvisional, rename } from '@/game/ids'
import { KINDS } from '@/game/parts'
import { isNamed, useGame } from '@/game/store'
import { EditText } from '@/ui/EditText'

interface TitleProps {
  /** What it is the name of. */
  of: string
  id: string
  name: string
  /** A sheet that needs its height has it smaller. */
  isLow?: boolean
  onRename: (name: string) => PromiseLike<Failure | null> | Failure | null
}

export function Title({ of, id, name, isLow = false, onRename }: TitleProps) {
  return (
    <EditText
      label={`name of the ${of}`}
      isTitle
      opens={isNamed(id)}
      text={name}
      className={`name text-left ${isLow ? 'text-sheet leading-8' : 'text-title leading-10'}`}
      inputClass={`name w-96 ${isLow ? 'text-heading' : 'text-title'}`}
      onCommit={(text) => {
        const { parts } = useGame.getState()
        const kind = KINDS.find((one) => one === of)
        // What was just made gets the id of its first name with it.
        return kind && text.trim() && isProvisional(parts, kind, id)
          ? rename(kind, id, text)
          : onRename(text)
      }}
    />
  )
}
