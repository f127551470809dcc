import type { ComputedRef, InjectionKey } from 'vue'
import type { Line } from './drawing'

/** Lines of units that are being dragged, by tag: they are drawn anew at every move while the rest of the sheet stands still. */
export type MovingLines = ReadonlyMap<string, Line>
export const MOVING: InjectionKey<ComputedRef<MovingLines>> = Symbol('moving lines')
