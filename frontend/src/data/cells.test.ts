import { describe, expect, it } from 'vitest'
import { cellsOf, read } from './cells'

const pasted = (text: string) => ({ clipboardData: { getData: () => text } }) as unknown as ClipboardEvent

describe('cells', () => {
  it('reads numbers as people write them and tells blank from nonsense', () => {
    expect(read(' 1 250,5 ')).toBe(1250.5)
    expect(read('1.5e3')).toBe(1500)
    expect(read('0')).toBe(0)
    expect(read('  ')).toBeNull()
    expect(read('twelve')).toBeUndefined()
  })
  it('takes a pasted table apart and leaves its heading out', () => {
    expect(cellsOf(pasted('Q\tH\r\n1\t2\r\n3\t4\r\n'))).toEqual([
      ['1', '2'],
      ['3', '4'],
    ])
    expect(cellsOf(pasted('5\t6'))).toEqual([['5', '6']])
    expect(cellsOf(pasted('7'))).toBeNull()
    expect(cellsOf(pasted('=1/3\t20 degC\n0.5\t30 degC'))).toHaveLength(2)
    expect(cellsOf(pasted('x1\t2-butanol\n0.5\t30'))).toEqual([['0.5', '30']])
  })
})
