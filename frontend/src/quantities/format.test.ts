import { describe, expect, it } from 'vitest'
import { numberText, rowTexts, typedText, unitText } from './format'

describe('numbers as people read them', () => {
  it.each([
    [0, '0'],
    [5, '5'],
    [0.1 + 0.2, '0.3'],
    [123456.789, '123457'],
    [98.7654321, '98.765'],
    [0.00012345, '0.00012345'],
    [-273.15, '-273.15'],
    [3.2e9, '3.200e9'],
    [4.5e-7, '4.500e-7'],
  ])('%d is %s', (value, text) => expect(numberText(value)).toBe(text))

  it('keeps the digits that were typed', () => {
    expect(typedText(1.01325)).toBe('1.01325')
    expect(typedText(1e-9)).toBe('1e-9')
  })

  it('stands in columns with the points under each other', () => {
    expect(rowTexts([1.5, 100, null, 0])).toEqual(['1.50', '100.00', '–', '0.00'])
    expect(rowTexts([0.00001, 250])).toEqual(['1.0e-5', '250.00'])
  })

  it('writes units with their signs', () => {
    expect(unitText('degC')).toBe('°C')
    expect(unitText('kg/m3')).toBe('kg/m³')
    expect(unitText('J/mol/K')).toBe('J/(mol K)')
    expect(unitText('')).toBe('')
  })
})
