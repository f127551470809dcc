import { numberText, unitText } from '../quantities/format'
import { useCatalogue } from '../stores/catalogue'
import { usePlant } from '../stores/plant'
import type { StudyColumn } from './answer'

type Column = Pick<StudyColumn, 'kind' | 'si'>

/** Values of the columns of a study in the units of the plant. */
export function useShown() {
  const plant = usePlant()
  const catalogue = useCatalogue()
  const unit = (column: Column) => (column.kind ? catalogue.displayUnit(column.kind, plant.unitSet) : column.si)
  const factor = (column: Column) =>
    catalogue.data?.kinds[column.kind ?? '']?.units.find((u) => u.name === unit(column))?.factor ?? 1
  const number = (value: number, column: Column) =>
    column.kind ? catalogue.shown(value, column.kind, unit(column)) : value
  /** Without its unit, for a table that has it in its head. */
  const told = (value: number | null | undefined, column: Column, digits = 6) =>
    value == null ? '–' : numberText(number(value, column), digits)
  const withUnit = (value: number | null | undefined, column: Column, digits = 6) =>
    value == null ? '–' : `${told(value, column, digits)} ${unitText(unit(column))}`.trim()
  /** A change of one quantity for one unit of another. */
  const rate = (value: number, of: Column, end: Column) => {
    const per = end.kind === 'temperature' ? { ...end, kind: 'temperature_difference' } : end
    const text = numberText((value / factor(of)) * factor(per), 4)
    const by = unitText(unit(per))
    return `${value > 0 ? '+' : ''}${text} ${unitText(unit(of))} per ${by || 'one'}`
  }
  return { unit, number, told, withUnit, rate }
}
