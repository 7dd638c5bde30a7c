import { OrthographicCamera } from 'three'
import { expect, test } from 'vitest'
import { project, type Screen } from './screen'

const looking = (half: number): Screen => {
  const camera = new OrthographicCamera(-half, half, half, -half, 0.1, 100)
  camera.updateMatrixWorld()
  return { element: document.body, camera, normal: [0, 0, 1], width: 200, height: 100 }
}

test('places are found in the picture', () => {
  expect(project(looking(10), [0, 0, -5])).toEqual({ x: 100, y: 50 })
  expect(project(looking(10), [5, 5, -5])).toEqual({ x: 150, y: 25 })
  expect(project(looking(10), [0, 0, 5])).toBeNull() // behind
})

test('a view without a size shows no place', () => {
  expect(project(looking(0), [0, 0, -5])).toBeNull()
  expect(project(looking(0), [1, 2, -5])).toBeNull()
})
