import OpenSeadragon from 'openseadragon'
import { useEffect, useImperativeHandle, useRef, type ReactNode, type Ref, type RefObject } from 'react'

import type { Point } from '../domain/affine'
import { endFirstLook, takeFirstLook } from '../api/firstLook'

/**
 * A page as tiles: its size in points as seen, and where its tiles are. Up to `wholeLevel` it is asked for whole; a
 * view that needs more to show all of the page has it whole up to `largeLevel`.
 */
export interface TileSource {
  address: string
  width: number
  height: number
  tilePx: number
  firstLevel: number
  topLevel: number
  wholeLevel?: number
  largeLevel?: number
  /** Sent with each tile that is asked for; of a visit by a link. */
  headers?: Record<string, string>
}

export interface View {
  fit: () => void
  zoomBy: (factor: number) => void
  /** A quarter to the right. */
  turn: () => void
  /** The middle of what is seen, and the middle of the mark's place brought there; view coordinates. */
  middle: () => Point
  goTo: (point: Point) => void
  /** Fills the view with a part of the page: left, upper, right, lower. */
  show: (box: [number, number, number, number]) => void
  /** Shows the same part of the page as another view of the same size. */
  follow: (part: Part) => void
  /** A pixel of the screen, in points of the page. */
  pixel: () => number
  /** Where a point of the window lies on the sheet. */
  place: (clientX: number, clientY: number) => Point
}

/** What part of the page a view shows, in its own units. */
export type Part = OpenSeadragon.Rect

interface Props {
  source: TileSource
  drawing: boolean
  view: Ref<View>
  /** What lies over the page, where it can be reached by keyboard; otherwise it is left out for those who listen. */
  label?: string
  /** The page stands in the view for the first time. */
  onOpen?: () => void
  /** Another part of the page is shown. */
  onMove?: (part: Part) => void
  /** Whether it has a ground; without one it lies over another view. */
  bare?: boolean
  /** Views of the same name open where the one before was left: another revision, other layers. */
  keep?: string
  /** A small picture of the whole page, with what is shown of it, while that is only a part. */
  map?: boolean
  children: ReactNode
}

const places = new Map<string, Part>()

/** Pixels of the longer side of a page of this shape that fills the view. */
function pixelsOfAll(view: HTMLElement, shape: number) {
  const width = Math.min(view.clientWidth, view.clientHeight * shape)
  return Math.max(width, width / shape) * devicePixelRatio
}

interface Parts {
  /** Where the picture that came with the page lies until the view is as sharp. */
  before: RefObject<HTMLDivElement | null>
  host: RefObject<HTMLDivElement | null>
  group: RefObject<SVGGElement | null>
  small: RefObject<HTMLDivElement | null>
}

/** What the viewer asks for: pages whole up to a level, tiles above. */
function pyramidOf(source: TileSource, pixels: number, view: HTMLElement) {
  const { address, width, height, tilePx, firstLevel, topLevel, wholeLevel = 0 } = source
  const { largeLevel = wholeLevel } = source
  const whole = pixelsOfAll(view, width / height) > 2 ** wholeLevel ? largeLevel : wholeLevel
  // One more than the longer side can have, should its length be rounded up.
  const sideOf = (level: number) => (level <= whole ? 2 ** level + 1 : tilePx)
  return {
    width: Math.ceil(width * pixels),
    height: Math.ceil(height * pixels),
    tileSize: tilePx,
    // Without any, each tile is drawn a pixel larger than it is, and lines break where two meet.
    tileOverlap: 1e-6,
    minLevel: firstLevel,
    maxLevel: topLevel,
    getTileUrl: (level: number, column: number, row: number) =>
      level <= whole ? `${address}/${level}` : `${address}/${level}/${column}/${row}`,
    getTileWidth: sideOf,
    getTileHeight: sideOf,
  }
}

/** The map of the page in a corner, where there is one; the viewer takes its element along when it goes. */
function mapOptions(small: HTMLDivElement | null) {
  if (!small) return {}
  const element = document.createElement('div')
  element.className = 'size-full'
  small.replaceChildren(element)
  return {
    showNavigator: true,
    navigatorElement: element,
    navigatorBackground: '#fff',
    navigatorBorderColor: 'transparent',
    navigatorDisplayRegionColor: '#6D2E4F',
    navigatorRotate: true,
  }
}

/** The group of what is drawn over the page goes along with it: turned, never mirrored. */
function carryAlong(made: OpenSeadragon.Viewer, group: SVGGElement | null, width: number, pixels: number) {
  const image = made.world.getItemAt(0)
  if (!image || !group) return
  const origin = image.imageToViewerElementCoordinates(new OpenSeadragon.Point(0, 0))
  const along = image.imageToViewerElementCoordinates(new OpenSeadragon.Point(width * pixels, 0))
  const [a, b] = [(along.x - origin.x) / width, (along.y - origin.y) / width]
  // The second axis follows from the first.
  group.setAttribute('transform', `matrix(${a} ${b} ${-b} ${a} ${origin.x} ${origin.y})`)
  group.style.setProperty('--unit', String(1 / Math.hypot(a, b)))
}

/** The map shows only while a part of the page is seen. */
function showMap(made: OpenSeadragon.Viewer, small: HTMLDivElement | null) {
  const image = made.world.getItemAt(0)
  const frame = small?.closest<HTMLElement>('[data-panel]')
  if (!image || !frame) return
  const [all, part] = [image.getBounds(true), made.viewport.getBounds(true)]
  frame.style.visibility = part.width * part.height < all.width * all.height ? 'visible' : 'hidden'
}

function makeViewer(source: TileSource, pixels: number, host: HTMLElement, small: HTMLDivElement | null) {
  const made = OpenSeadragon({
    element: host,
    tileSources: pyramidOf(source, pixels, host),
    showNavigationControl: false,
    ...mapOptions(small),
    ...(source.headers ? { loadTilesWithAjax: true, ajaxHeaders: source.headers } : {}),
    drawer: 'canvas',
    animationTime: 0.25,
    springStiffness: 10,
    immediateRender: false,
    minZoomImageRatio: 0.5,
    maxZoomPixelRatio: 2,
    visibilityRatio: 0.3,
    gestureSettingsMouse: { clickToZoom: false, dblClickToZoom: true },
    preserveImageSizeOnResize: true,
  })
  // The map is for the mouse; the keys that move the view move what it shows.
  for (const each of small?.querySelectorAll<HTMLElement>('[tabindex]') ?? []) each.tabIndex = -1
  return made
}

/** The viewer of a page, for as long as the page is the same; `pixels`: of its sharpest level, to a point of the page. */
function useViewer(parts: Parts, { source, keep, onOpen, onMove }: Omit<Props, 'children'>, pixels: number) {
  const { before, host, group, small } = parts
  const viewer = useRef<OpenSeadragon.Viewer | null>(null)
  const { address, width, height, tilePx, firstLevel, topLevel, wholeLevel, largeLevel } = source
  const heard = useRef({ onOpen, onMove, source })
  useEffect(() => {
    heard.current = { onOpen, onMove, source }
  })
  useEffect(() => {
    if (!host.current) return
    if (before.current) takeFirstLook(before.current)
    const map = small.current
    const made = makeViewer(heard.current.source, pixels, host.current, map)
    viewer.current = made
    const place = keep ? places.get(keep) : undefined
    const carry = () => carryAlong(made, group.current, width, pixels)
    made.addHandler('open', () => {
      // Every tile of what is shown is there: the view is as sharp as it gets.
      made.world.getItemAt(0)?.addHandler('fully-loaded-change', ({ fullyLoaded }) => {
        if (host.current) host.current.dataset['sharp'] = String(fullyLoaded)
        if (fullyLoaded) endFirstLook()
      })
      if (place) made.viewport.fitBounds(place, true)
      carry()
      heard.current.onOpen?.()
    })
    made.addHandler('update-viewport', () => {
      carry()
      showMap(made, map)
      heard.current.onMove?.(made.viewport.getBounds(true))
    })
    made.addHandler('resize', carry)
    return () => {
      viewer.current = null
      if (keep && made.isOpen()) {
        places.clear()
        places.set(keep, made.viewport.getBounds(true))
      }
      made.destroy()
    }
    // What the source says, not the value that says it, which is another with each drawing.
    // prettier-ignore
  }, [
    before,
    host,
    group,
    small,
    address,
    width,
    height,
    pixels,
    tilePx,
    firstLevel,
    topLevel,
    wholeLevel,
    largeLevel,
    keep,
  ])
  return viewer
}

/** What others do with the view. */
function viewOf(
  viewer: RefObject<OpenSeadragon.Viewer | null>,
  { host, group }: Parts,
  pixels: number,
): View {
  const image = () => viewer.current?.world.getItemAt(0)
  const onSheet = (point: OpenSeadragon.Point): Point => {
    const at = image()?.viewerElementToImageCoordinates(point)
    return at ? [at.x / pixels, at.y / pixels] : [0, 0]
  }
  const box = () => host.current?.getBoundingClientRect()
  return {
    fit: () => void viewer.current?.viewport.goHome(),
    turn: () => {
      const viewport = viewer.current?.viewport
      viewport?.setRotation((viewport.getRotation() + 90) % 360, true)
    },
    zoomBy: (factor) => void viewer.current?.viewport.zoomBy(factor).applyConstraints(),
    middle: () => {
      const { width = 0, height = 0 } = box() ?? {}
      return onSheet(new OpenSeadragon.Point(width / 2, height / 2))
    },
    show: ([left, upper, right, lower]) => {
      const at = image()?.imageToViewportRectangle(
        left * pixels,
        upper * pixels,
        (right - left) * pixels,
        (lower - upper) * pixels,
      )
      if (at) viewer.current?.viewport.fitBounds(at, true)
    },
    goTo: ([x, y]) => {
      const at = image()?.imageToViewportCoordinates(new OpenSeadragon.Point(x * pixels, y * pixels))
      if (at) viewer.current?.viewport.panTo(at)
    },
    follow: (part) => {
      const viewport = viewer.current?.viewport
      if (viewport && !viewport.getBounds(true).equals(part)) viewport.fitBounds(part, true)
    },
    pixel: () => Number(group.current?.style.getPropertyValue('--unit') || 0),
    place: (clientX, clientY) => {
      const { left = 0, top = 0 } = box() ?? {}
      return onSheet(new OpenSeadragon.Point(clientX - left, clientY - top))
    },
  }
}

/**
 * A page as tiles, and over it an SVG whose group is carried along. The group's coordinates are points of the page as
 * seen (y down); `--unit` is one screen pixel in these, for what keeps its size on the screen.
 */
export function TileView(props: Props) {
  const { source, drawing, view, label, bare, map, children } = props
  const [before, host] = [useRef<HTMLDivElement>(null), useRef<HTMLDivElement>(null)]
  const [group, small] = [useRef<SVGGElement>(null), useRef<HTMLDivElement>(null)]
  const pixels = 2 ** source.topLevel / Math.max(source.width, source.height)
  const parts = { before, host, group, small }
  const viewer = useViewer(parts, props, pixels)
  useEffect(() => {
    viewer.current?.setMouseNavEnabled(!drawing)
  }, [viewer, drawing])
  useImperativeHandle(view, () => viewOf(viewer, { before, host, group, small }, pixels), [
    viewer,
    before,
    host,
    group,
    small,
    pixels,
  ])
  return (
    <div className={`relative size-full overflow-hidden select-none ${bare ? '' : 'bg-(--ground)'}`}>
      <div ref={before} data-view className="absolute inset-0" />
      <div ref={host} className="size-full" data-testid="sheet" />
      <svg
        className={`absolute inset-0 size-full ${drawing ? 'cursor-crosshair' : 'pointer-events-none'}`}
        {...(label ? { role: 'group', 'aria-label': label } : { 'aria-hidden': true })}
      >
        <g ref={group} pointerEvents={drawing ? 'none' : 'auto'}>
          {children}
        </g>
      </svg>
      {map && (
        <div
          aria-hidden
          data-panel
          className="absolute right-3 bottom-[60px] h-[96px] w-[136px] border border-second bg-surface"
          data-testid="map"
          style={{ visibility: 'hidden' }}
        >
          <div ref={small} className="size-full" />
        </div>
      )}
    </div>
  )
}
