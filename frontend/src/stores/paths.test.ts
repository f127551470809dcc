import { describe, expect, it } from 'vitest'
import { splitKey } from './paths'

describe('paths of givens', () => {
  it('tells the unit from the path, whatever points stand in either', () => {
    expect(splitKey('E-101.outlet_temperature')).toEqual(['E-101', 'outlet_temperature'])
    expect(splitKey('T.1.shares[n-butane]')).toEqual(['T.1', 'shares[n-butane]'])
    expect(splitKey('P-1.curve[2].head')).toEqual(['P-1', 'curve[2].head'])
    expect(splitKey('T-1.shares[benzo[a]pyrene]')).toEqual(['T-1', 'shares[benzo[a]pyrene]'])
    expect(splitKey('')).toEqual(['', ''])
  })
})
