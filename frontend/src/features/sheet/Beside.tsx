import { boxOnPage, surroundings } from '../../domain/pageBox'
import { FindOnSheet } from './FindOnSheet'
import { LayersPanel } from './LayersPanel'
import { MeasurePanel } from './measure/MeasurePanel'
import { useSheet } from './sheetContext'

/** What stands under the sheet's title block: one thing at a time. */
export function Beside() {
  const { sheet, page, panes, ways, layers, off, setOff, sought, scales, hand, inks, view, toView } =
    useSheet()
  const close = () => {
    panes.setBeside(null)
    sought.forget()
  }
  if (panes.beside === 'find')
    return <FindOnSheet revisionId={sheet.revision_id} ways={ways} onShow={sought.show} onClose={close} />
  if (panes.beside === 'layers')
    return <LayersPanel layers={layers} off={off} onOff={setOff} onClose={close} />
  if (panes.beside === 'measure')
    return (
      <MeasurePanel
        revisionId={sheet.revision_id}
        page={page}
        scales={scales}
        hand={hand}
        inks={inks}
        onShow={(scale) => scale.box && view.current?.show(surroundings(boxOnPage(scale.box, toView)))}
        onClose={close}
      />
    )
  return null
}
