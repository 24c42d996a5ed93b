import type { Point } from '../../domain/affine'

export const SHOWN = ['overlay', 'beside', 'slider'] as const
export type Shown = (typeof SHOWN)[number]

/** How two sheets are to be laid over each other, as the address has it. */
export interface Asked {
  before_page?: number | undefined
  after_page?: number | undefined
  /** Pairs of places: x, y in the first and x, y in the second, millimetres. */
  places?: string | undefined
  with_block?: true | undefined
  shown?: Shown | undefined
  /** Beside each other, each moves by itself. */
  apart?: true | undefined
}

const place = (value: unknown) => (typeof value === 'number' && value > 0 ? value : undefined)

export function readAsked(search: Record<string, unknown>): Asked {
  return {
    before_page: place(search['before_page']),
    after_page: place(search['after_page']),
    places: typeof search['places'] === 'string' && search['places'] ? search['places'] : undefined,
    with_block: search['with_block'] === true || undefined,
    apart: search['apart'] === true || undefined,
    shown: SHOWN.find((each) => each === search['shown'] && each !== 'overlay'),
  }
}

/** Pairs of places, as the address and the server have them. */
export function pairsText(pairs: readonly (readonly [Point, Point])[]): string {
  return pairs.flatMap(([a, b]) => [...a, ...b].map((value) => Math.round(value * 1000) / 1000)).join(',')
}
