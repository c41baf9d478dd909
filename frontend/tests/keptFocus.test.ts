// @vitest-environment happy-dom
import { beforeEach, expect, test } from 'vitest'
import { follower, placeOf } from '../src/kit/keptFocus'

const at = (id: string) => document.getElementById(id) ?? document.body
const always = () => true
beforeEach(() => {
  document.body.innerHTML = `
    <main><section id="page">
      <ol id="log">
        <li id="one"><button id="strike1">Strike</button></li>
        <li id="two"><button id="strike2">Strike</button></li>
        <li id="three"><button id="strike3" disabled>Strike</button></li>
      </ol>
      <p id="words">Nothing here</p>
      <button id="draft">Draft</button>
    </section></main>`
})

test('a line taken out gives its focus to the one that follows', () => {
  const place = placeOf(at('strike1'))
  at('one').remove()
  expect(follower(place, always)?.id).toBe('strike2')
})

test('the last line gives it to the one before, and a disabled button gets none', () => {
  const place = placeOf(at('strike2'))
  at('two').remove()
  expect(follower(place, always)?.id).toBe('strike1')
})

test('a whole part taken out gives it to what follows the part', () => {
  const place = placeOf(at('strike1'))
  at('log').remove()
  expect(follower(place, always)?.id).toBe('draft')
})

test('where the whole station goes, the next one has its keys', () => {
  const place = placeOf(at('draft'))
  at('page').remove()
  expect(follower(place, always)).toBeNull()
})

test('what is not shown is passed over, and nothing is found where nothing is', () => {
  const place = placeOf(at('strike1'))
  at('one').remove()
  expect(follower(place, (e) => e.id === 'draft')?.id).toBe('draft')
  expect(follower(place, () => false)).toBeNull()
})
