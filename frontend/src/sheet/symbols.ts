/** Graphical symbols after ISO 10628-2, in ink. Paths are drawn in a box of the given size. */
export interface Symbol {
  width: number
  height: number
  paths: string[]
  /** Where the tag plate sits: below the symbol, or beside it where a line leaves at the foot. */
  plate: 'below' | 'beside'
}

const exchanger = ['M4 22a18 18 0 1 0 36 0a18 18 0 1 0 -36 0', 'M0 22h12l6-10l8 20l6-10h12']

const SYMBOLS: Record<string, Symbol> = {
  'boundary-in': { width: 44, height: 26, paths: ['M1 1H31L43 13L31 25H1z'], plate: 'below' },
  'boundary-out': { width: 44, height: 26, paths: ['M1 1H31L43 13L31 25H1L9 13z'], plate: 'below' },
  heater: { width: 44, height: 44, paths: [...exchanger, 'M12 44L36 -2', 'M36 -2l-7 4.5M36 -2l-.5 8'], plate: 'below' },
  cooler: {
    width: 44,
    height: 44,
    paths: [...exchanger, 'M12 -2L36 46', 'M36 46l-7 -4.5M36 46l-.5 -8'],
    plate: 'below',
  },
  valve: { width: 36, height: 24, paths: ['M1 1L35 23V1L1 23z'], plate: 'below' },
  drum: { width: 38, height: 76, paths: ['M1 12Q19 -9 37 12V64Q19 85 1 64z'], plate: 'beside' },
  mixer: { width: 30, height: 30, paths: ['M1 1L29 15L1 29z'], plate: 'below' },
  splitter: { width: 30, height: 56, paths: ['M29 1L1 28L29 55z'], plate: 'below' },
}

export function symbolOf(name: string | undefined): Symbol {
  return SYMBOLS[name ?? ''] ?? { width: 44, height: 44, paths: ['M1 1H43V43H1z'], plate: 'below' }
}
