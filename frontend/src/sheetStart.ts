// The start of a page that is a sheet. What it asks for first is asked for, and the sheet view fetched, beside all that
// makes the page work instead of after it.
import { askOpening } from './api/opening'

const revisionId = /\/sheet\/([^/]+)/.exec(location.pathname)?.[1]
if (revisionId && document.getElementById('first-look')) askOpening(revisionId)
void Promise.all([import('./features/sheet/SheetPage'), import('./main')])
