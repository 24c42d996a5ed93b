// The start of a page that is a sheet. Its picture, which came with the page, is painted first; then all that makes the
// page work begins, and with it the sheet view, instead of being asked for later.
const LONGEST_MS = 500

const shown = [...document.querySelectorAll<HTMLImageElement>('#first-look img')].filter((each) =>
  each.checkVisibility(),
)
const frame = () => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))
const painted = Promise.allSettled(shown.map((each) => each.decode())).then(frame)
const waited = new Promise((done) =>
  setTimeout(done, shown.length && document.visibilityState === 'visible' ? LONGEST_MS : 0),
)

void Promise.race([painted, waited]).then(() =>
  Promise.all([import('./features/sheet/SheetPage'), import('./main')]),
)
