import type { Schemas } from '../../api/client'
import type { Extent } from '../../domain/drawing'
import { FindOnSheet } from './FindOnSheet'
import { LayersPanel } from './LayersPanel'
import { MeasurePanel } from './measure/MeasurePanel'
import type { Hand } from './marks/useHand'
import type { Scales } from './measure/useScales'
import type { Hit } from './useSheetWords'
import type { Way } from './useWays'

export type BesideWhat = 'find' | 'measure' | 'layers' | null

interface Props {
  what: BesideWhat
  sheet: Schemas['Sheet']
  page: number
  scales: Scales
  hand: Hand
  ways: readonly Way[]
  layers: readonly Schemas['LayerShown'][]
  off: ReadonlySet<number> | null
  onOff: (off: ReadonlySet<number> | null) => void
  onShow: (hit: Hit) => void
  onRegion: (box: Extent) => void
  onClose: () => void
}

/** What stands under the sheet's title block: one thing at a time. */
export function Beside({
  what,
  sheet,
  page,
  scales,
  hand,
  ways,
  layers,
  off,
  onOff,
  onShow,
  onRegion,
  onClose,
}: Props) {
  if (what === 'find')
    return <FindOnSheet revisionId={sheet.revision_id} ways={ways} onShow={onShow} onClose={onClose} />
  if (what === 'layers') return <LayersPanel layers={layers} off={off} onOff={onOff} onClose={onClose} />
  if (what === 'measure')
    return (
      <MeasurePanel
        revisionId={sheet.revision_id}
        page={page}
        scales={scales}
        hand={hand}
        inks={sheet.drawn_with.inks}
        onShow={(scale) => scale.box && onRegion(scale.box)}
        onClose={onClose}
      />
    )
  return null
}
