import { DOMWrapper, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useCutting } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { opened } from '@/testing/opened'
import AssembliesPanel from './AssembliesPanel.vue'
import BoardsPanel from './BoardsPanel.vue'
import ExchangePart from './ExchangePart.vue'
import ImportPreview from './ImportPreview.vue'
import JoinPart from './JoinPart.vue'
import MarkersPanel from './MarkersPanel.vue'
import RhythmPanel from './RhythmPanel.vue'
import ShotPanel from './ShotPanel.vue'
import SoundPanel from './SoundPanel.vue'

vi.mock('@/view3d/stage', () => ({ useStage: () => ({ still: async () => '', invalidate: () => {} }) }))

let scene: ReturnType<typeof useScene>
let view: ReturnType<typeof useView>
let head: ReturnType<typeof usePlayhead>
beforeEach(async () => {
  ;({ scene, view, head } = await opened())
  view.desk = 'splice'
  await nextTick()
  head.setScreen(0)
})
afterEach(async () => {
  await useScene().flushed() // what is still being saved
  vi.unstubAllGlobals()
})

type Mounted = ReturnType<typeof mount>
async function type(w: Mounted, label: string, text: string) {
  const field = w.find(`[aria-label="${label}"]`)
  await field.trigger('focus')
  await field.setValue(text)
  await field.trigger('keydown', { key: 'Enter' })
  await field.trigger('change')
  await nextTick()
}
const press = async (w: Mounted, words: string) => {
  const b = w.findAll('button').find((x) => x.text().includes(words) || x.attributes('aria-label') === words)
  if (!b) throw new Error(`there is no button ${words}`)
  await b.trigger('click')
  await nextTick()
}
const choose = async (w: Mounted, label: string, value: string) => {
  await w.find(`select[aria-label="${label}"]`).setValue(value)
  await nextTick()
}
const last = () => scene.undoable.at(-1)?.label
const shot = (id: string) => scene.doc.shots[id]!

describe('the shot', () => {
  beforeEach(() => view.select('shots', 's2'))

  it('is shown on both clocks and changed in figures', async () => {
    const w = mount(ShotPanel)
    expect(w.text()).toContain('48 · 00:00:02:00')
    expect(w.text()).toContain('40–87')
    await type(w, 'Length, later shots follow', '60')
    expect([shot('s2').screenOut, shot('s3').screenIn]).toEqual([108, 108])
    await type(w, 'Begins at', '2s')
    expect(shot('s2').storyIn).toBe(48)
    await type(w, 'Speed', '0.5')
    expect([shot('s2').speed, shot('s2').screenOut]).toEqual([0.5, 108])
    await press(w, 'Twice the story')
    expect([shot('s2').speed, shot('s2').screenOut, shot('s3').screenIn]).toEqual([1, 78, 78])
    await type(w, 'Shot name', 'Closer')
    await type(w, 'Notes', 'softer')
    await choose(w, 'Status', 'agreed')
    expect(shot('s2')).toMatchObject({ name: 'Closer', notes: 'softer', status: 'agreed' })
    await type(w, 'Head', '6')
    await type(w, 'Tail', '-3')
    expect([shot('s2').head, shot('s2').tail ?? 0]).toEqual([6, 0])
  })

  it('has a light of its own until it is as the scene again', async () => {
    const w = mount(ShotPanel)
    expect(w.find('[aria-label="Hour, 0 as the scene"]').exists()).toBe(false)
    await type(w, 'Exposure', '-9')
    expect(shot('s2').exposure).toBe(-6)
    await type(w, 'Haze, 0 as the scene', '40')
    await w.find('[aria-label="Filter of the shot"]').setValue('#8090ff')
    await nextTick()
    expect(shot('s2')).toMatchObject({ exposure: -6, haze: 40, tint: '#8090ff' })
    expect(shot('s1').exposure).toBeUndefined()
    await press(w, 'No filter in the shot')
    expect(shot('s2').tint).toBeUndefined()
    scene.run('set', {
      collection: 'settings',
      id: 'settings',
      merge: { sun: { clock: { latitude: 46, day: 172, hour: 12 } } },
      label: 'clock',
    })
    await nextTick()
    await type(w, 'Hour, 0 as the scene', '17')
    expect(shot('s2').hour).toBe(17)
    await press(w, 'As the scene')
    expect([shot('s2').exposure, shot('s2').haze, shot('s2').hour]).toEqual([undefined, undefined, undefined])
    expect(w.findAll('button').some((b) => b.text() === 'As the scene')).toBe(false)
    scene.undo()
    expect(shot('s2').hour).toBe(17)
  })

  it('is locked against everything but being carried along', async () => {
    const w = mount(ShotPanel)
    await press(w, 'Lock the shot')
    await type(w, 'Begins at', '5')
    expect(shot('s2').storyIn).toBe(40)
    await press(w, 'Unlock the shot')
    expect(shot('s2').locked).toBeUndefined()
  })

  it('plays a card until it has its camera again', async () => {
    scene.run('cardAdd', { id: 'title', name: 'title', title: 'Last Car Down' })
    const w = mount(ShotPanel)
    await choose(w, 'Shot plays', 'card:title')
    expect(shot('s2')).toMatchObject({ plays: 'card', card: 'title', camera: 'b' })
    await type(w, 'Title of the card', 'Dusk')
    expect(scene.doc.cards.title!.title).toBe('Dusk')
    await choose(w, 'Shot plays', 'camera')
    expect(shot('s2').plays).toBeUndefined()
    await choose(w, 'Shot camera', 'a')
    expect(shot('s2').camera).toBe('a')
  })

  it('is copied, swapped, lifted and extracted', async () => {
    const w = mount(ShotPanel)
    await press(w, 'Swap')
    expect([shot('s3').screenIn, shot('s2').screenIn]).toEqual([48, 96])
    await press(w, 'Copy to spare')
    expect(scene.cut.spares).toHaveLength(1)
    view.select('shots', 's3')
    await nextTick()
    await press(w, 'Lift')
    expect(scene.doc.shots.s3).toBeUndefined()
    expect(shot('s2').screenIn).toBe(96)
    head.setScreen(60)
    view.select('shots', 's2')
    await nextTick()
    await press(w, 'Close gap')
    expect(shot('s2').screenIn).toBe(48)
    await press(w, 'Extract')
    expect(scene.cut.shots.map((s) => s.id)).toEqual(['s1'])
  })

  it('changes with others that are selected', async () => {
    view.selectShots(['s1', 's3'])
    const w = mount(ShotPanel)
    expect(w.text()).toContain('2 shots are selected')
    await type(w, 'Head', '12')
    expect([shot('s1').head, shot('s2').head, shot('s3').head]).toEqual([12, undefined, 12])
  })

  it('says what to do where there is none', () => {
    scene.run('shotRemove', { ids: ['s1', 's2', 's3'] })
    view.select('shots', '')
    expect(mount(ShotPanel).text()).toContain('No shot is here')
  })
})

describe('the join', () => {
  it('names what lacks before it is made, and gives it', async () => {
    const w = mount(JoinPart, { props: { shot: 's2' } })
    await press(w, 'dissolve')
    expect(shot('s2').join).toBeUndefined()
    expect(w.text()).toContain('shot 010 lacks 8 tail frames, shot 020 lacks 8 head frames')
    await choose(w, 'Alignment', 'before')
    expect(w.text()).toContain('shot 020 lacks 16 head frames')
    expect(w.text()).not.toContain('tail')
    await press(w, 'Give them')
    expect(shot('s2')).toMatchObject({ head: 16, join: { kind: 'dissolve', before: 16, after: 0 } })
    expect(w.text()).not.toContain('lacks')
    await press(w, 'dip')
    await type(w, 'Length', '10')
    expect(shot('s2').join).toMatchObject({ kind: 'dip', before: 10, color: '#000000' })
    await press(w, 'cut')
    expect(shot('s2').join).toBeUndefined()
  })

  it('is not offered where no seam is', () => {
    expect(mount(JoinPart, { props: { shot: 's1' } }).text()).toBe('')
  })
})

describe('markers', () => {
  it('are found, changed, and become cues', async () => {
    scene.run('markerAdd', { id: 'm1', clock: 'screen', assembly: 'cut', frame: 30, name: 'bell' })
    scene.run('markerAdd', { id: 'm2', clock: 'story', frame: 50, name: 'docks', note: 'the cabin' })
    const w = mount(MarkersPanel)
    expect(w.findAll('.item').map((b) => b.text())).toEqual(['▷ 30 bell', '◷ 50 docks'])
    await w.find('input[type=search]').setValue('cabin')
    expect(w.findAll('.item')).toHaveLength(1)
    await press(w, 'docks')
    expect(head.story).toBe(50)
    await type(w, 'Marker note', 'swings')
    await type(w, 'Length', '12')
    await choose(w, 'Cue for', 'b')
    expect(scene.doc.markers.m2).toMatchObject({ note: 'swings', frames: 12, camera: 'b' })
    await press(w, 'Follow the ◷ cues')
    expect(scene.cut.shots[0]).toMatchObject({ id: 'cue.m2', cue: { camera: 'b', storyIn: 50 } })
    expect(scene.shotOf('cue.m2')?.camera).toBe('b')
    await press(w, 'Shots from ◷ cues')
    expect(scene.cut.shots).toHaveLength(1)
    expect(scene.cut.spares[0]!.shots).toHaveLength(3)
    await press(w, '▷ cues from shots')
    expect(Object.values(scene.doc.markers).filter((m) => m.camera && m.clock === 'screen')).toHaveLength(1)
    await press(w, 'Remove the marker')
    expect(scene.doc.markers.m2).toBeUndefined()
  })
})

describe('rhythm', () => {
  it('measures the shots against a target', async () => {
    const w = mount(RhythmPanel)
    expect(w.text()).toContain('48.0 f · 2.0 s')
    await type(w, 'Target of a shot', '24')
    expect(w.findAll('.far')).toHaveLength(3)
    await type(w, 'Target of the whole', '5s')
    expect(w.text()).toContain('+24 f')
    await w.findAll('.bar')[1]!.trigger('click')
    expect([view.shot, head.screen]).toEqual(['s2', 48])
  })

  it('draws only the bars in sight, as far as it is scrolled', async () => {
    const panels = Array.from({ length: 200 }, (_, i) => ({ name: `${i}`, blob: 'ab'.repeat(32), width: 4, height: 3 }))
    scene.run('boardsDeal', { assembly: 'cut', frames: 10, panels })
    const w = mount(RhythmPanel)
    expect(w.text()).toContain('203')
    expect(w.findAll('.bar').length).toBeLessThan(40)
    const list = w.get('[aria-label="Shot lengths"]')
    list.element.scrollTop = 18 * 100
    await list.trigger('scroll')
    const number = (i: number) => scene.shotOf(scene.cut.shots[i]!.id)!.number
    expect(w.findAll('.bar .number').map((x) => x.text())).toContain(number(100))
    expect(w.findAll('.bar').length).toBeLessThan(40)
  })
})

/** Answers uploads, and passes all else on. */
function uploads(answers: Record<string, object>) {
  const on = globalThis.fetch
  vi.stubGlobal('fetch', async (input: Request | string, init?: RequestInit) => {
    const path = typeof input === 'string' ? input.split('?')[0]! : ''
    const body = answers[path]
    if (!body) return on(input as Request, init)
    const status = 'title' in body ? 422 : 200
    return new Response(JSON.stringify(body), { status })
  })
}
/** The window that tells what a file will do; it lies over the page. */
async function preview(w: Mounted) {
  await vi.waitFor(() => expect(w.findComponent(ImportPreview).exists()).toBe(true))
  const page = new DOMWrapper(document.body)
  await vi.waitFor(() => expect(page.find('.will tr').exists()).toBe(true))
  return page as unknown as Mounted
}

describe('assemblies', () => {
  it('are copied, compared and chosen', async () => {
    const w = mount(AssembliesPanel)
    await press(w, 'Duplicate')
    const copy = scene.cut.assembly
    expect(scene.doc.assemblies[copy]!.name).toBe('cut 2')
    expect(w.text()).toContain('Both show the same.')
    scene.run('shotTrim', { id: scene.cut.shots[0]!.id, edge: 'out', by: -8, ripple: true })
    await nextTick()
    expect(w.find('[aria-label=Differences]').text()).toContain('010 length 40 f → 48 f')
    await press(w, 'Side by side')
    expect([useCutting().beside, useCutting().other]).toEqual(['compare', 'cut'])
    await press(w, 'Assembly cut')
    expect(scene.cutLength).toBe(144)
    await press(w, 'One frame per camera')
    expect(scene.cut.shots).toHaveLength(2)
    await press(w, 'Remove assembly cut 2')
    expect(scene.doc.assemblies[copy]).toBeUndefined()
  })

  it('are written and brought in', async () => {
    const w = mount(ExchangePart)
    const saved: Blob[] = []
    vi.spyOn(URL, 'createObjectURL').mockImplementation((b) => (saved.push(b as Blob), 'blob:x'))
    vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(() => {})
    await choose(w, 'Format to write', 'edl')
    await press(w, 'Export')
    await vi.waitFor(() => expect(saved).toHaveLength(1))
    const text = await saved[0]!.text()
    expect(text).toContain('001  CAM01    V     C         00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00')
    const input = w.find('input[type=file]')
    Object.defineProperty(input.element, 'files', { value: [new File([text], 'mine.edl')], configurable: true })
    await input.trigger('change')
    const offered = await preview(w)
    expect(Object.keys(scene.doc.assemblies), 'nothing happens before it is agreed to').toHaveLength(1)
    expect(offered.text()).toContain('3 shots · 00:00:06:00')
    await press(offered, 'Bring in')
    await vi.waitFor(() => expect(w.text()).toContain('mine.edl is now the assembly “Small - cut”'))
    expect(scene.cut.shots).toHaveLength(3)
    Object.defineProperty(input.element, 'files', { value: [new File(['no'], 'no.edl')], configurable: true })
    await input.trigger('change')
    await nextTick()
    expect(Object.keys(scene.doc.assemblies)).toHaveLength(2)
  })

  it('take over a shot list, as text or as a workbook, in one step', async () => {
    const w = mount(ExchangePart)
    const input = w.find('input[type=file]')
    const give = async (file: File) => {
      Object.defineProperty(input.element, 'files', { value: [file], configurable: true })
      await input.trigger('change')
    }
    await give(new File(['Shot,Frames,Notes\n010,60,slower\n'], 'monday.csv'))
    let offered = await preview(w)
    expect(offered.findAll('tr').map((r) => r.text())).toEqual([
      'Shot 010, length48 f → 60 f',
      'Shot 010, notesslower',
      'The whole00:00:06:00 → 00:00:06:12',
    ])
    await press(offered, 'Cancel')
    expect(w.findComponent(ImportPreview).exists()).toBe(false)
    expect(scene.undoable).toHaveLength(0)

    uploads({ '/api/tables': { text: 'Shot,Frames\n010,60\n020,12\n' } })
    await give(new File(['PK\u0003\u0004'], 'monday.xlsx'))
    offered = await preview(w)
    await press(offered, 'Bring in')
    expect(scene.cutLength).toBe(120)
    scene.undo()
    expect(scene.cutLength).toBe(144)
    uploads({ '/api/tables': { title: 'This was not imported.' } })
    await give(new File(['PK\u0003\u0004'], 'worse.xlsx'))
    await vi.waitFor(() => expect(document.body.textContent).toContain('worse.xlsx: This was not imported.'))
    expect(w.findComponent(ImportPreview).exists()).toBe(false)
  })
})

describe('boards and sounds', () => {
  const give = async (w: Mounted, label: string, names: string[]) => {
    const input = w.find(`input[aria-label="${label}"]`)
    Object.defineProperty(input.element, 'files', { value: names.map((n) => new File(['x'], n)), configurable: true })
    await input.trigger('change')
  }
  const blob = 'ab'.repeat(32)

  it('deals panels in the order of their names', async () => {
    uploads({
      '/api/images': { blob, width: 16, height: 9 },
      '/api/panels': {
        pages: [
          { blob, width: 16, height: 9 },
          { blob, width: 16, height: 9 },
        ],
      },
    })
    const w = mount(BoardsPanel)
    await type(w, 'Length of each', '30')
    await give(w, 'Panels', ['p 10.png', 'p 2.png', 'notes.txt', 'end.pdf'])
    await vi.waitFor(() => expect(last()).toBe('deal 4 panels onto shots'))
    const dealt = scene.cut.shots.slice(3).map((s) => shot(s.id))
    expect(dealt.map((s) => s.name)).toEqual(['end 1', 'end 2', 'p 2', 'p 10'])
    expect(dealt.map((s) => s.screenOut - s.screenIn)).toEqual([30, 30, 30, 30])
    view.select('shots', scene.cut.shots[3]!.id)
    await nextTick()
    expect(w.findAll('figure')).toHaveLength(1)
    await press(w, 'Remove the board')
    expect(Object.keys(scene.doc.boards)).toHaveLength(3)
  })

  it('takes sounds and footage in, and says why not', async () => {
    uploads({ '/api/sounds': { blob, seconds: 1.5 }, '/api/footage': { blob, width: 16, height: 9, frames: 40 } })
    const w = mount(SoundPanel)
    head.setScreen(24)
    await give(w, 'Sound files', ['bell.wav'])
    await vi.waitFor(() => expect(last()).toBe('add sound bell'))
    const [id] = Object.keys(scene.doc.sounds)
    expect(scene.doc.sounds[id!]).toMatchObject({ in: 24, out: 60, name: 'bell' })
    await nextTick()
    await type(w, 'Fade in', '6')
    expect(scene.doc.sounds[id!]!.fadeIn).toBe(6)
    await choose(w, 'Tied to', 'story')
    expect(Object.values(scene.doc.tracks)[0]).toMatchObject({ clock: 'story' })
    await give(w, 'Video', ['plate.mov'])
    await vi.waitFor(() => expect(last()).toBe('insert shot 012'))
    const made = Object.values(scene.doc.shots).find((s) => s.plays === 'footage')!
    expect([made.screenIn, made.screenOut, made.name]).toEqual([24, 64, 'plate'])
    uploads({ '/api/sounds': { title: 'This was not imported.' } })
    await give(w, 'Sound files', ['no.wav'])
    await nextTick()
    expect(Object.keys(scene.doc.sounds)).toHaveLength(1)
  })
})
