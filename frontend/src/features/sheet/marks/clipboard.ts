import type { Point } from '../../../domain/affine'
import type { NewMark } from './useMarks'

/** Marks that were copied, also for another sheet: points in view coordinates. `from` is revision and page. */
export const clipboard: { from: string; marks: (Omit<NewMark, 'points' | 'page'> & { points: Point[] })[] } =
  {
    from: '',
    marks: [],
  }
