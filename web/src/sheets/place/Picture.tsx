// A picture laid under the plan, to trace over: kept with the game, only shown.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { toast } from 'sonner'
import { api } from '@/api/client'
import { useGame } from '@/game/store'
import { Choice } from '@/ui/Choice'
import { FileButton } from '@/ui/FileButton'

const FAINT = { '0.25': 'faint', '0.6': 'clear', '1': 'whole', '0': 'hidden' } as const
type Faint = keyof typeof FAINT

export interface Laid {
  address: string
  opacity: number
}

/** The picture of a place, if it has one, and how clearly it shows. */
export function usePicture(place: string) {
  const game = useGame((state) => state.id)
  const [faint, setFaint] = useState<Faint>('0.25')
  const { data } = useQuery({
    queryKey: ['pictures', game],
    queryFn: () => api.pictures(game),
    retry: false,
  })
  const digest = data?.[place]
  const laid: Laid | null = digest
    ? { address: api.pictureAddress(game, place, digest), opacity: Number(faint) }
    : null
  return { laid, faint, setFaint }
}

export function PictureChoice({
  place,
  laid,
  faint,
  onFaint,
}: {
  place: string
  laid: Laid | null
  faint: Faint
  onFaint: (faint: Faint) => void
}) {
  const game = useGame((state) => state.id)
  const client = useQueryClient()
  const again = () => client.invalidateQueries({ queryKey: ['pictures', game] })
  const failed = (error: Error) => toast.error(error.message)
  const lay = useMutation({
    mutationFn: (file: File) => api.layPicture(game, place, file),
    onSuccess: again,
    onError: failed,
  })
  const take = useMutation({
    mutationFn: () => api.takePicture(game, place),
    onSuccess: again,
    onError: failed,
  })
  return (
    <span className="ml-auto flex items-baseline gap-2">
      {laid && (
        <>
          picture
          <Choice
            label="how clear the picture is"
            value={faint}
            options={FAINT}
            onChange={(chosen) => onFaint(chosen as Faint)}
          />
          <button type="button" className="label hover:text-bad" onClick={() => take.mutate()}>
            take it away
          </button>
        </>
      )}
      <FileButton
        label="picture under the plan"
        accept="image/png"
        className="label hover:text-ink"
        title="PNG, up to 4 MB: kept with the game on this machine, only shown"
        onFile={(file) => lay.mutate(file)}
      >
        {laid ? 'another' : '+ a picture under it'}
      </FileButton>
    </span>
  )
}
