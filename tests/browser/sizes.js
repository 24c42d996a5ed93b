() => {
  // What is wrong with a page at the size it has: it scrolls sideways, something is cut off or covered, a target small.
  const found = []
  const name = (it) => {
    const words = (it.getAttribute('aria-label') || it.innerText || it.value || it.placeholder || '').trim()
    return `${it.tagName.toLowerCase()} “${words.replace(/\s+/g, ' ').slice(0, 40)}” .${String(it.className.baseVal ?? it.className).slice(0, 60)}`
  }
  const shown = (it) => {
    const style = getComputedStyle(it)
    const box = it.getBoundingClientRect()
    const hidden = style.visibility !== 'visible' || style.display === 'none' || Number(style.opacity) === 0
    // What is for readers of the screen alone takes a pixel.
    return !hidden && box.width > 1 && box.height > 1 && !it.closest('[aria-hidden=true], [inert]')
  }
  // The sheet and the grids may be wider than the window.
  const free = (it) => it.closest('[role=grid], [data-wide], svg, .sheet-view')
  const page = document.scrollingElement
  if (page.scrollWidth > innerWidth + 1) found.push(`the page is ${page.scrollWidth - innerWidth} px wider than the window`)
  for (const it of document.querySelectorAll('body *')) {
    if (!shown(it) || free(it)) continue
    const style = getComputedStyle(it)
    if (it.scrollWidth > it.clientWidth + 1 && it.clientWidth > 0 && ['auto', 'scroll'].includes(style.overflowX))
      found.push(`scrolls sideways: ${name(it)}`)
    const cut = ['hidden', 'clip'].includes(style.overflowX) && it.scrollWidth > it.clientWidth + 2
    if (cut && style.textOverflow !== 'ellipsis' && it.clientWidth > 1 && it.innerText?.trim())
      found.push(`cut off: ${name(it)}`)
  }
  const CONTROLS = 'a[href], button, input, select, textarea, [role=tab], [role=menuitem], [role=option]'
  for (const it of document.querySelectorAll(CONTROLS)) {
    if (!shown(it) || it.type === 'hidden') continue
    const box = it.getBoundingClientRect()
    if (!free(it) && (box.right > innerWidth + 1 || box.left < -1)) found.push(`beyond the edge: ${name(it)}`)
    const [x, y] = [box.left + box.width / 2, box.top + box.height / 2]
    const inWindow = x >= 0 && y >= 0 && x < innerWidth - 1 && y < innerHeight - 1
    const top = inWindow ? document.elementFromPoint(x, y) : it
    const reached = top && (it.contains(top) || top.contains(it) || it.labels?.[0]?.contains(top))
    // What has scrolled out of its part of the page is come to by scrolling.
    // A dossier, a menu, a drawer lies over what it came from, until it is shut.
    const OVER = 'aside, [role=complementary], [role=dialog], [role=menu], [data-radix-popper-content-wrapper], [data-panel]'
    const over = top?.closest(OVER)
    const overlaid = over && !over.contains(it)
    const clips = (part) => part && part !== document.body && (outside(part, x, y) || clips(part.parentElement))
    const inText = getComputedStyle(it).display === 'inline' || it.closest('label')
    if (!inText && !overlaid && !free(it) && !['checkbox', 'radio', 'range'].includes(it.type) && Math.min(box.width, box.height) < 23.5)
      found.push(`${Math.round(box.width)} × ${Math.round(box.height)} px: ${name(it)}`)
    if (!reached && !overlaid && !clips(it.parentElement)) found.push(`covered by ${top ? name(top) : 'nothing'}: ${name(it)}`)
  }
  function outside(part, x, y) {
    const style = getComputedStyle(part)
    if (style.overflow === 'visible') return false
    const box = part.getBoundingClientRect()
    return x < box.left || x > box.right || y < box.top || y > box.bottom
  }
  return [...new Set(found)]
}
