/** How numbers and units are written. Conversion factors come from the server; only the linear map happens here. */

export function unitText(unit: string): string {
  return unit
    .replace(/\bdegC\b/g, '°C')
    .replace(/\bdegF\b/g, '°F')
    .replace(/\bdegR\b/g, '°R')
    .replace(/m3/g, 'm³')
    .replace(/ft3/g, 'ft³')
    .replace(/J\/mol\/K/, 'J/(mol K)')
    .replace(/W\/m2\/K/, 'W/(m² K)')
    .replace(/W\/m\/K/, 'W/(m K)')
    .replace(/\*/g, ' ')
}

/** Five significant digits, no exponent where a person would not write one. */
export function numberText(value: number, digits = 5): string {
  if (value === 0) return '0'
  const size = Math.abs(value)
  if (size >= 1e7 || size < 1e-4) return value.toExponential(digits - 2).replace('e+', 'e')
  const decimals = Math.max(0, Math.min(8, digits - 1 - Math.floor(Math.log10(size))))
  return String(Number(value.toFixed(decimals)))
}

/** The digits of a number exactly as it was typed. */
export function typedText(value: number): string {
  return String(value)
}

/** Texts of one table row with the same number of decimals, so that the points stand under each other. */
export function rowTexts(values: (number | null)[], digits = 5): string[] {
  const sizes = values.filter((v): v is number => v !== null && v !== 0).map((v) => Math.abs(v))
  const largest = Math.max(...sizes, 0)
  const decimals = largest === 0 ? 0 : Math.max(0, Math.min(5, digits - 1 - Math.floor(Math.log10(largest))))
  return values.map((v) => {
    if (v === null) return '–'
    if (v !== 0 && Math.abs(v) < 0.5 * 10 ** -decimals) return v.toExponential(1).replace('e+', 'e')
    return v.toFixed(decimals)
  })
}
