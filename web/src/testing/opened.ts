// The small scene, opened from a server in memory, for tests of what shows it.
import { createPinia, setActivePinia } from 'pinia'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { FakeServer } from './server'

/** Begins anew and opens the scene. */
export async function opened() {
  localStorage.clear()
  sessionStorage.clear()
  setActivePinia(createPinia())
  new FakeServer().install()
  const stores = { scene: useScene(), view: useView(), head: usePlayhead() }
  await stores.scene.load('scene')
  return stores
}
