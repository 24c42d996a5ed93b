import { useQuery } from '@tanstack/react-query'
import { X } from 'lucide-react'

import { api, unwrapAs, type Schemas } from '../../api/client'
import { Button } from '../../ui/Button'
import { Checkbox } from '../../ui/Checkbox'
import { IconButton } from '../../ui/IconButton'

/** The layers of the file; those off by their places are `off`, null while they are as the file has them. */
export function useLayers(revisionId: string) {
  const found = useQuery({
    queryKey: ['layers', revisionId],
    queryFn: () =>
      unwrapAs<Schemas['Layers']>(
        api.GET('/api/sheets/{revision_id}/layers', { params: { path: { revision_id: revisionId } } }),
      ),
    staleTime: Infinity,
  })
  return found.data?.layers ?? []
}

interface Props {
  layers: readonly Schemas['LayerShown'][]
  off: ReadonlySet<number> | null
  onOff: (off: ReadonlySet<number> | null) => void
  onClose: () => void
}

export function LayersPanel({ layers, off, onOff, onClose }: Props) {
  const now = off ?? new Set(layers.flatMap((layer, place) => (layer.on ? [] : [place])))
  const flip = (place: number) => {
    const next = new Set(now)
    if (!next.delete(place)) next.add(place)
    onOff(next)
  }
  return (
    <section
      aria-label="Layers"
      data-panel
      className="absolute top-[170px] left-3 flex max-h-[55%] w-[330px] flex-col border border-second bg-surface text-list"
    >
      <header className="flex items-center justify-between border-b border-line px-2.5 py-1">
        <h2 className="text-body font-semibold">
          Layers{' '}
          <span className="font-normal text-second">
            {layers.length - now.size} of {layers.length} on
          </span>
        </h2>
        <IconButton label="Close" icon={<X size={15} aria-hidden />} onClick={onClose} />
      </header>
      <ul className="min-h-0 flex-1 overflow-auto px-2.5 py-1">
        {layers.map((layer, place) => (
          <li key={place}>
            <Checkbox
              label={layer.name || `layer ${place + 1}`}
              checked={!now.has(place)}
              onChange={() => flip(place)}
            />
          </li>
        ))}
      </ul>
      <footer className="flex gap-1.5 border-t border-line px-2.5 py-1.5">
        <Button small onClick={() => onOff(new Set())}>
          All on
        </Button>
        <Button small onClick={() => onOff(new Set(layers.keys()))}>
          All off
        </Button>
        <Button
          small
          why={off === null && 'The layers are as the file has them.'}
          onClick={() => onOff(null)}
        >
          As the file has them
        </Button>
      </footer>
    </section>
  )
}
