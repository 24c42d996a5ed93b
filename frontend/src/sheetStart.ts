// The start of a page that is a sheet: the sheet view is fetched beside all that makes the page work, not after it.
import { beginFirstLook } from './api/firstLook'

beginFirstLook(location.pathname)
void Promise.all([import('./features/sheet/SheetPage'), import('./main')])
