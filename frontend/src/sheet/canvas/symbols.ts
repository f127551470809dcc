/** Graphical symbols after ISO 10628-2, in ink. Paths are drawn in a box of the given size. */
export interface Symbol {
  width: number
  height: number
  paths: string[]
  /** Where the tag plate sits: below the symbol, beside it where a line leaves at the foot, or at the corner where one leaves at the side too. */
  plate: 'below' | 'beside' | 'corner'
}

const exchanger = ['M4 22a18 18 0 1 0 36 0a18 18 0 1 0 -36 0', 'M0 22h12l6-10l8 20l6-10h12']

const SYMBOLS: Record<string, Symbol> = {
  connector: { width: 30, height: 20, paths: ['M1 1H20L29 10L20 19H1z'], plate: 'below' },
  'boundary-in': { width: 44, height: 26, paths: ['M1 1H31L43 13L31 25H1z'], plate: 'below' },
  'boundary-out': { width: 44, height: 26, paths: ['M1 1H31L43 13L31 25H1L9 13z'], plate: 'below' },
  'energy-in': { width: 44, height: 26, paths: ['M1 1H31L43 13L31 25H1z', 'M20 5l-6 9h8l-6 8'], plate: 'below' },
  'energy-out': { width: 44, height: 26, paths: ['M1 1H31L43 13L31 25H1L9 13z', 'M24 5l-6 9h8l-6 8'], plate: 'below' },
  header: { width: 24, height: 64, paths: ['M1 1H23V63H1z', 'M12 8V56'], plate: 'below' },
  heater: { width: 44, height: 44, paths: [...exchanger, 'M12 44L36 -2', 'M36 -2l-7 4.5M36 -2l-.5 8'], plate: 'below' },
  cooler: {
    width: 44,
    height: 44,
    paths: [...exchanger, 'M12 -2L36 46', 'M36 46l-7 -4.5M36 46l-.5 -8'],
    plate: 'below',
  },
  exchanger: {
    width: 48,
    height: 48,
    paths: ['M6 24a18 18 0 1 0 36 0a18 18 0 1 0 -36 0', 'M0 24H48', 'M24 0V14l-7 5l14 10l-7 5V48'],
    plate: 'corner',
  },
  separator: {
    width: 76,
    height: 40,
    paths: ['M12 1H64Q86 20 64 39H12Q-9 20 12 1z', 'M52 39V22M4 27H52'],
    plate: 'corner',
  },
  valve: { width: 36, height: 24, paths: ['M1 1L35 23V1L1 23z'], plate: 'below' },
  drum: { width: 38, height: 76, paths: ['M1 12Q19 -9 37 12V64Q19 85 1 64z'], plate: 'beside' },
  pump: {
    width: 40,
    height: 40,
    paths: ['M2 20a18 18 0 1 0 36 0a18 18 0 1 0 -36 0', 'M20 2L38 20L20 38'],
    plate: 'below',
  },
  compressor: {
    width: 40,
    height: 40,
    paths: ['M2 20a18 18 0 1 0 36 0a18 18 0 1 0 -36 0', 'M9 6L37 14M9 34L37 26'],
    plate: 'below',
  },
  expander: {
    width: 40,
    height: 40,
    paths: ['M2 20a18 18 0 1 0 36 0a18 18 0 1 0 -36 0', 'M3 14L31 6M3 26L31 34'],
    plate: 'below',
  },
  reactor: {
    width: 40,
    height: 80,
    paths: ['M1 12Q20 -9 39 12V68Q20 89 1 68z', 'M1 20L39 60M39 20L1 60M1 20H39M1 60H39'],
    plate: 'beside',
  },
  'component-splitter': {
    width: 36,
    height: 96,
    paths: ['M1 12Q18 -9 35 12V84Q18 105 1 84z', 'M1 24H26M10 36H35M1 48H26M10 60H35M1 72H26'],
    plate: 'beside',
  },
  column: {
    width: 40,
    height: 120,
    paths: ['M1 12Q20 -9 39 12V108Q20 129 1 108z', 'M1 26H29M11 38H39M1 50H29M11 62H39M1 74H29M11 86H39M1 98H29'],
    plate: 'beside',
  },
  extractor: {
    width: 40,
    height: 120,
    paths: ['M1 12Q20 -9 39 12V108Q20 129 1 108z', 'M20 -2V98', 'M8 30H32M8 52H32M8 74H32M8 96H32', 'M1 22H39'],
    plate: 'beside',
  },
  pipe: { width: 64, height: 16, paths: ['M0 3H64M0 13H64M4 0V16M60 0V16'], plate: 'below' },
  decanter: {
    width: 76,
    height: 40,
    paths: ['M12 1H64Q86 20 64 39H12Q-9 20 12 1z', 'M4 20H72M52 39V14'],
    plate: 'corner',
  },
  filter: { width: 56, height: 44, paths: ['M1 1H55V43H1z', 'M1 43L55 1M7 43L55 7'], plate: 'corner' },
  cyclone: { width: 36, height: 68, paths: ['M1 1H35V24L20 67H16L1 24z', 'M18 -6V16M1 24H35'], plate: 'beside' },
  dryer: {
    width: 76,
    height: 44,
    paths: ['M1 1H75V43H1z', 'M8 30H68M14 22l4 -6l4 6l4 -6M34 22l4 -6l4 6l4 -6M54 22l4 -6l4 6l4 -6'],
    plate: 'corner',
  },
  tank: { width: 56, height: 60, paths: ['M1 10Q28 -8 55 10V59H1z', 'M1 30H55'], plate: 'below' },
  'air-cooler': {
    width: 56,
    height: 44,
    paths: ['M1 1H55V26H1z', 'M1 13H10l6 -8l10 16l10 -16l6 8H55', 'M28 44V34M16 40Q22 30 28 36Q34 30 40 40'],
    plate: 'below',
  },
  charge: {
    width: 32,
    height: 44,
    paths: [
      'M2 28a14 14 0 1 0 28 0a14 14 0 1 0 -28 0',
      'M16 0V14M12 8l4 6l4 -6',
      'M9 25a8 8 0 0 1 14 0M23 31a8 8 0 0 1 -14 0M23 20v5h-5M9 36v-5h5',
    ],
    plate: 'below',
  },
  copy: { width: 30, height: 56, paths: ['M1 1H29V55H1z', 'M8 8H22M8 18H22M8 28H22M8 38H22M8 48H22'], plate: 'below' },
  mixer: { width: 30, height: 30, paths: ['M1 1L29 15L1 29z'], plate: 'below' },
  splitter: { width: 30, height: 56, paths: ['M29 1L1 28L29 55z'], plate: 'below' },
}

export function symbolOf(name: string | undefined): Symbol {
  return SYMBOLS[name ?? ''] ?? { width: 44, height: 44, paths: ['M1 1H43V43H1z'], plate: 'below' }
}
