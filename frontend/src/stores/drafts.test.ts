import { expect, test } from 'vitest'
import { useDrafts } from './drafts'

/** A server that takes its time; ``answers`` are given out one by one. */
function slow() {
  const stored: [string, number[]][] = []
  const waiting: ((refusal: string) => void)[] = []
  const drafts = useDrafts<number[]>((name, next) => {
    stored.push([name, next])
    return new Promise((done) => waiting.push(done))
  })
  const answer = async (refusal = '') => {
    waiting.shift()!(refusal)
    await new Promise((done) => setTimeout(done))
  }
  const turn = () => new Promise((done) => setTimeout(done))
  return { stored, drafts, answer, turn }
}

test('cells typed while an earlier one is on its way are all in what is saved last', async () => {
  const { stored, drafts, answer, turn } = slow()
  void drafts.save('A', [1])
  await turn()
  let settled = false
  for (let k = 2; k <= 4; k++) void drafts.save('A', [...(drafts.get('A') ?? []), k])
  void drafts.settled().then(() => (settled = true))
  await answer()
  expect(settled).toBe(false)
  await answer()
  expect(settled).toBe(true)
  expect(stored.at(-1)).toEqual(['A', [1, 2, 3, 4]])
  expect(stored.length).toBeLessThan(4)
  expect(drafts.get('A')).toBeUndefined()
})

test('two tables do not wait in the place of each other', async () => {
  const { stored, drafts, answer, turn } = slow()
  void drafts.save('A', [1])
  void drafts.save('B', [2])
  await turn()
  await answer()
  await answer()
  expect(stored).toEqual([
    ['A', [1]],
    ['B', [2]],
  ])
})

test('what is refused stays until it is corrected or dropped', async () => {
  const { drafts, answer, turn } = slow()
  const said = drafts.save('A', [-1])
  await turn()
  await answer('not below zero')
  expect(await said).toBe('not below zero')
  expect(drafts.get('A')).toEqual([-1])
  drafts.drop('A')
  expect(drafts.get('A')).toBeUndefined()
})
