import OpenSeadragon from 'openseadragon'
import { useEffect, useImperativeHandle, useRef, type ReactNode, type Ref } from 'react'

import type { Point } from '../domain/affine'
import { endFirstLook, takeFirstLook } from './firstLook'

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

/**
 * A page as tiles, and over it an SVG whose group is carried along. The group's coordinates are points of the page as
 * seen (y down); `--unit` is one screen pixel in these, for what keeps its size on the screen.
 */
export function TileView({ source, drawing, view, label, onOpen, onMove, bare, keep, map, children }: Props) {
  const before = useRef<HTMLDivElement>(null)
  const host = useRef<HTMLDivElement>(null)
  const group = useRef<SVGGElement>(null)
  const small = useRef<HTMLDivElement>(null)
  const viewer = useRef<OpenSeadragon.Viewer | null>(null)
  const {
    address,
    width,
    height,
    tilePx,
    firstLevel,
    topLevel,
    wholeLevel = 0,
    largeLevel = wholeLevel,
  } = source
  const opened = useRef(onOpen)
  const moved = useRef(onMove)
  useEffect(() => {
    opened.current = onOpen
    moved.current = onMove
  })
  const pixels = 2 ** topLevel / Math.max(width, height)

  useEffect(() => {
    if (!host.current) return
    if (before.current) takeFirstLook(before.current)
    // The viewer takes its map's element along when it goes.
    const mapElement = document.createElement('div')
    mapElement.className = 'size-full'
    small.current?.replaceChildren(mapElement)
    const whole = pixelsOfAll(host.current, width / height) > 2 ** wholeLevel ? largeLevel : wholeLevel
    const pyramid = {
      width: Math.ceil(width * pixels),
      height: Math.ceil(height * pixels),
      tileSize: tilePx,
      // Without any, each tile is drawn a pixel larger than it is, and lines break where two meet.
      tileOverlap: 1e-6,
      minLevel: firstLevel,
      maxLevel: topLevel,
      getTileUrl: (level: number, column: number, row: number) =>
        level <= whole ? `${address}/${level}` : `${address}/${level}/${column}/${row}`,
      // One more than the longer side can have, should its length be rounded up.
      getTileWidth: (level: number) => (level <= whole ? 2 ** level + 1 : tilePx),
      getTileHeight: (level: number) => (level <= whole ? 2 ** level + 1 : tilePx),
    }
    const made = OpenSeadragon({
      element: host.current,
      tileSources: pyramid,
      showNavigationControl: false,
      ...(small.current
        ? {
            showNavigator: true,
            navigatorElement: mapElement,
            navigatorBackground: '#fff',
            navigatorBorderColor: 'transparent',
            navigatorDisplayRegionColor: '#6D2E4F',
            navigatorRotate: true,
          }
        : {}),
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
    viewer.current = made
    // The map is for the mouse; the keys that move the view move what it shows.
    for (const each of small.current?.querySelectorAll<HTMLElement>('[tabindex]') ?? []) each.tabIndex = -1
    const place = keep ? places.get(keep) : undefined
    const carry = () => {
      const image = made.world.getItemAt(0)
      if (!image || !group.current) return
      const origin = image.imageToViewerElementCoordinates(new OpenSeadragon.Point(0, 0))
      const along = image.imageToViewerElementCoordinates(new OpenSeadragon.Point(width * pixels, 0))
      const [a, b] = [(along.x - origin.x) / width, (along.y - origin.y) / width]
      const scale = Math.hypot(a, b)
      // Turned, never mirrored: the second axis follows from the first.
      group.current.setAttribute('transform', `matrix(${a} ${b} ${-b} ${a} ${origin.x} ${origin.y})`)
      group.current.style.setProperty('--unit', String(1 / scale))
    }
    made.addHandler('open', () => {
      // Every tile of what is shown is there: the view is as sharp as it gets.
      made.world.getItemAt(0)?.addHandler('fully-loaded-change', ({ fullyLoaded }) => {
        if (host.current) host.current.dataset['sharp'] = String(fullyLoaded)
        if (fullyLoaded) endFirstLook()
      })
      if (place) made.viewport.fitBounds(place, true)
      carry()
      opened.current?.()
    })
    made.addHandler('update-viewport', () => {
      carry()
      const image = made.world.getItemAt(0)
      const frame = small.current?.closest<HTMLElement>('[data-panel]')
      if (image && frame) {
        const [all, part] = [image.getBounds(true), made.viewport.getBounds(true)]
        frame.style.visibility = part.width * part.height < all.width * all.height ? 'visible' : 'hidden'
      }
      moved.current?.(made.viewport.getBounds(true))
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
  }, [address, width, height, pixels, tilePx, firstLevel, topLevel, wholeLevel, largeLevel, keep])

  useEffect(() => {
    viewer.current?.setMouseNavEnabled(!drawing)
  }, [drawing])

  useImperativeHandle(view, (): View => {
    const image = () => viewer.current?.world.getItemAt(0)
    const onSheet = (point: OpenSeadragon.Point): Point => {
      const at = image()?.viewerElementToImageCoordinates(point)
      return at ? [at.x / pixels, at.y / pixels] : [0, 0]
    }
    return {
      fit: () => void viewer.current?.viewport.goHome(),
      turn: () => {
        const viewport = viewer.current?.viewport
        viewport?.setRotation((viewport.getRotation() + 90) % 360, true)
      },
      zoomBy: (factor) => void viewer.current?.viewport.zoomBy(factor).applyConstraints(),
      middle: () => {
        const box = host.current?.getBoundingClientRect()
        return onSheet(new OpenSeadragon.Point((box?.width ?? 0) / 2, (box?.height ?? 0) / 2))
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
        const box = host.current?.getBoundingClientRect()
        return onSheet(new OpenSeadragon.Point(clientX - (box?.left ?? 0), clientY - (box?.top ?? 0)))
      },
    }
  }, [pixels])

  return (
    <div className={`relative size-full overflow-hidden ${bare ? '' : 'bg-(--ground)'}`}>
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
