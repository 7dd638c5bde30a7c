<script setup lang="ts">
// Home: productions with their scenes as pictures, and what is done to scenes as
// wholes. The first thing that anybody sees.
import { useEventListener } from '@vueuse/core'
import { FolderPlus, Library, PackageOpen, Pencil, Plus, Search, Trash2 } from '@lucide/vue'
import { ElMessageBox } from 'element-plus'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { SceneInfo } from '@/api/client'
import { starts, useHome, type Start } from '@/stores/home'
import { sendLeft } from '@/stores/keeping'
import { usePerson } from '@/stores/person'
import NewScene from './NewScene.vue'
import SceneCard from './SceneCard.vue'

const router = useRouter()
const person = usePerson()
const home = useHome()
const making = ref<string | null>(null)
/** How many edits wait in each scene, since others have changed the same. */
const waiting = ref<Record<string, number>>({})
onMounted(async () => {
  document.title = 'Proscen'
  home.shows(true)
  await home.load()
  await nextTick()
  requestAnimationFrame(() =>
    requestAnimationFrame(() => {
      performance.mark('home')
      settled.value = true
    }),
  )
  waiting.value = await sendLeft(await person.takeTab())
})
onBeforeUnmount(() => home.shows(false))
useEventListener(window, 'focus', () => void home.load())

const open = (s: { id: string; shots: number }, round = false) =>
  router.push(round ? `/scenes/${s.id}/dress?round` : `/scenes/${s.id}/${s.shots ? 'splice' : 'dress'}`)
/** How many cards are there: those in sight come first, the others in the frames after. */
const drawn = ref(40)
const settled = ref(false) // the first of them have been seen
const sections = computed(() => {
  let room = drawn.value
  return home.shown.map((p) => {
    const scenes = p.scenes.slice(0, Math.max(0, room))
    room -= scenes.length
    return { ...p, cards: scenes }
  })
})
watch(
  () => settled.value && drawn.value < (home.scenes?.length ?? 0) && drawn.value,
  (more) => more && requestAnimationFrame(() => (drawn.value += 40)),
)
const first = computed(() => home.scenes?.length === 0)
const starting = ref(false)
async function begin(start: Start) {
  starting.value = true
  const { title } = starts.find((w) => w.id === start)!
  const production = start === 'demonstration' ? 'Hollin Pass' : 'First production'
  const s = await home.made({ production, title, start })
  starting.value = false
  if (s) await open(s, start === 'demonstration')
}

async function prompt(title: string, label: string, value: string): Promise<string> {
  const answer = await ElMessageBox.prompt('', title, {
    inputValue: value,
    inputPlaceholder: label,
    confirmButtonText: 'OK',
    cancelButtonText: 'Leave it',
  }).catch(() => null)
  return ((answer as { value?: string } | null)?.value ?? '').trim()
}
/** Lets the browser save what an address gives. */
function save(address: string) {
  const a = document.createElement('a')
  a.href = address
  a.download = ''
  a.click()
}
const taking = ref(false)
async function takeIn(e: Event) {
  const field = e.target as HTMLInputElement
  taking.value = true
  for (const file of field.files ?? []) await home.unpack(file)
  taking.value = false
  field.value = ''
}
async function act(what: string, scenes: SceneInfo[]) {
  const ids = scenes.map((s) => s.id)
  if (!ids.length) return
  switch (what) {
    case 'copy':
      return home.copy(ids)
    case 'pack':
      for (const id of ids) save(`/api/scenes/${id}/parcel`)
      return
    case 'archive':
    case 'unarchive':
      await home.change(ids, { archived: what === 'archive' })
      return void home.chosen.clear()
    case 'bin':
    case 'unbin':
      await home.change(ids, { binned: what === 'bin' })
      return void home.chosen.clear()
    case 'move': {
      const to = await prompt('Move to which production?', 'Name of a production', scenes[0]!.production)
      if (to) return home.change(ids, { production: to })
    }
  }
}
const chosen = computed(() => (home.scenes ?? []).filter((s) => home.chosen.has(s.id)))
async function addProduction() {
  const name = await prompt('New production', 'Name', '')
  if (name) await home.addProduction(name)
}
async function renameProduction(id: string, name: string) {
  const to = await prompt(`Rename ${name}`, 'Name', name)
  if (to && to !== name) await home.renameProduction(id, to)
}

const cards = ref<HTMLElement | null>(null)
/** Arrow keys go from card to card as they lie on the page. */
function arrows(e: KeyboardEvent) {
  const at = (e.target as HTMLElement).closest?.('.open')
  if (!at || !e.key.startsWith('Arrow')) return
  const all = [...cards.value!.querySelectorAll<HTMLElement>('.open')]
  const from = at.getBoundingClientRect()
  const along = e.key === 'ArrowLeft' || e.key === 'ArrowRight'
  const forward = e.key === 'ArrowRight' || e.key === 'ArrowDown'
  const i = all.indexOf(at as HTMLElement)
  const rest = forward ? all.slice(i + 1) : all.slice(0, i).reverse()
  const next = along
    ? rest[0]
    : rest.find((c) => {
        const b = c.getBoundingClientRect()
        return Math.abs(b.x - from.x) < 4 && b.y !== from.y
      })
  if (!next) return
  e.preventDefault()
  next.focus()
  next.scrollIntoView({ block: 'nearest' })
}
const field = ref<HTMLInputElement | null>(null)
useEventListener(window, 'keydown', (e) => {
  if ((e.target as HTMLElement).closest?.('input, textarea, [role=dialog]')) return
  if (e.key === '/') {
    e.preventDefault()
    void nextTick(() => field.value?.focus())
  }
  if (e.key === 'Escape') home.chosen.clear()
  if (e.key.toLowerCase() === 'n' && !e.ctrlKey && !e.metaKey && !e.altKey) {
    e.preventDefault()
    making.value = home.productions[0]?.name ?? ''
  }
})
</script>
<template>
  <main class="home">
    <header class="bar">
      <h1><img src="/mark.svg" alt="" width="28" height="28" />Proscen</h1>
      <nav aria-label="Shelves">
        <button
          v-for="[id, name] in [
            ['scenes', 'Scenes'],
            ['archived', 'Archive'],
            ['bin', 'Bin'],
          ] as const"
          :key="id"
          :aria-current="home.shelf === id ? 'page' : undefined"
          @click="home.shelf = id"
        >
          {{ name }} <i>{{ home.counts[id] }}</i>
        </button>
      </nav>
      <span class="gap"></span>
      <label class="search"
        ><Search :size="14" />
        <input
          ref="field"
          v-model="home.search"
          type="search"
          placeholder="search"
          aria-label="Search the scenes"
          title="Search (/)"
          @keydown.esc="home.search = ''"
      /></label>
      <el-select v-model="home.order" size="small" class="order" aria-label="Order">
        <el-option value="edited" label="edited last" />
        <el-option value="title" label="by title" />
        <el-option value="length" label="longest" />
      </el-select>
      <label class="act file" title="Take in a scene that was packed as a file"
        ><PackageOpen :size="15" /> {{ taking ? 'Taking it in…' : 'Take in' }}
        <input
          type="file"
          accept=".zip"
          multiple
          aria-label="Take in a packed scene"
          :disabled="taking"
          @change="takeIn"
      /></label>
      <button class="act" @click="addProduction"><FolderPlus :size="15" /> New production</button>
      <button class="act main" title="New scene (N)" @click="making = home.productions[0]?.name ?? ''">
        <Plus :size="15" /> New scene
      </button>
    </header>
    <p v-if="home.failure" class="why" role="alert">
      {{ home.failure }} <button class="link" @click="home.load()">Try again</button>
    </p>
    <div v-if="!home.scenes && !home.failure" class="grid waiting"><i v-for="n in 8" :key="n"></i></div>
    <div v-if="first" class="first">
      <h2>Work out where the cameras stand, how they move, and when the picture cuts.</h2>
      <p>Begin with the demonstration, which is a whole scene from set to cut, or with a set of your own.</p>
      <div class="ways">
        <button class="way main" :disabled="starting" @click="begin('demonstration')">
          <b>Look at the demonstration</b><span>“Last Car Down”: eleven shots at a cable-car station</span>
        </button>
        <button v-for="w in starts.slice(0, -1)" :key="w.id" class="way" :disabled="starting" @click="begin(w.id)">
          <b>{{ w.name }}</b><span>{{ w.what }}</span>
        </button>
      </div>
      <p v-if="starting" class="dim" role="status">It is being made…</p>
    </div>
    <div ref="cards" class="all" @keydown="arrows">
      <section v-for="p in sections" :key="p.id" :aria-label="p.name">
        <div class="name">
          <h2>{{ p.name }}</h2>
          <span class="dim">{{ p.scenes.length }} {{ p.scenes.length === 1 ? 'scene' : 'scenes' }}</span>
          <button class="icon" :aria-label="`Rename ${p.name}`" @click="renameProduction(p.id, p.name)">
            <Pencil :size="13" />
          </button>
          <router-link
            class="icon"
            :to="`/productions/${p.library}`"
            :aria-label="`What ${p.name} shares`"
            title="What its scenes share: lens kits, formats, models, sounds, pictures"
            ><Library :size="14"
          /></router-link>
          <button class="icon" :aria-label="`New scene in ${p.name}`" title="New scene" @click="making = p.name">
            <Plus :size="15" />
          </button>
          <button
            v-if="!p.scenes.length"
            class="icon"
            :aria-label="`Remove ${p.name}`"
            @click="home.removeProduction(p.id)"
          >
            <Trash2 :size="13" />
          </button>
        </div>
        <div v-if="p.scenes.length" class="grid">
          <SceneCard
            v-for="s in p.cards"
            :key="s.id"
            :scene="s"
            :waiting="waiting[s.id] ?? 0"
            @open="open(s)"
            @menu="act($event, home.chosen.has(s.id) ? chosen : [s])"
          />
        </div>
        <p v-else class="dim none">No scene yet. <button class="link" @click="making = p.name">Make one</button></p>
      </section>
      <p v-if="home.scenes?.length && !home.shown.length" class="dim none">
        {{
          home.search
            ? `Nothing here is called “${home.search}”.`
            : home.shelf === 'bin'
              ? 'The bin is empty. Scenes stay in it for 30 days.'
              : 'Nothing is archived.'
        }}
      </p>
    </div>
    <div v-if="chosen.length" class="with-chosen" role="toolbar" aria-label="Chosen scenes">
      <b>{{ chosen.length }} chosen</b>
      <template v-if="home.shelf !== 'bin'">
        <button class="act" @click="act('copy', chosen)">Duplicate</button>
        <button class="act" @click="act('pack', chosen)">Pack</button>
        <button class="act" @click="act('move', chosen)">Move</button>
        <button class="act" @click="act(home.shelf === 'archived' ? 'unarchive' : 'archive', chosen)">
          {{ home.shelf === 'archived' ? 'Out of the archive' : 'Archive' }}
        </button>
        <button class="act" @click="act('bin', chosen)">To the bin</button>
      </template>
      <button v-else class="act" @click="act('unbin', chosen)">Take out of the bin</button>
      <button class="link" @click="home.chosen.clear()">None</button>
    </div>
    <NewScene
      v-if="making !== null"
      :production="making"
      @close="making = null"
      @made="(id) => router.push(`/scenes/${id}/dress`)"
    />
  </main>
</template>
<style scoped>
.home {
  display: flex;
  flex-direction: column;
  height: 100vh;
}
.bar {
  display: flex;
  align-items: center;
  gap: 10px;
  flex: none;
  height: 56px;
  padding: 0 24px;
  border-bottom: 1px solid var(--line);
  background: var(--panel);
}
h1 {
  display: flex;
  align-items: center;
  gap: 10px;
  margin: 0 14px 0 0;
  font: 600 18px var(--font);
}
nav {
  display: flex;
  gap: 2px;
}
nav button {
  height: 30px;
  padding: 0 12px;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--dim);
  font: 500 13px var(--font);
  cursor: pointer;
}
nav button:hover {
  background: var(--raised);
}
nav button[aria-current] {
  background: var(--raised);
  color: var(--text);
}
nav i {
  color: var(--dim);
  font: 11px var(--font-mono);
}
.gap {
  flex: 1;
}
.search {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 28px;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--dim);
}
.search input {
  width: 130px;
  border: 0;
  background: none;
  color: var(--text);
  font: 13px var(--font);
  outline: none;
}
.search:focus-within {
  border-color: var(--brass);
}
.order {
  width: 116px;
}
.all {
  flex: 1;
  overflow: auto;
  padding: 6px 24px 60px;
}
.name {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 16px 0 10px;
}
.name h2 {
  margin: 0;
  font: 600 15px var(--font);
}
.name .icon {
  width: 24px;
  height: 24px;
  border-color: transparent;
  background: none;
  color: var(--dim);
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(228px, 1fr));
  gap: 14px;
}
.grid.waiting {
  padding: 24px;
}
.grid.waiting i {
  aspect-ratio: 16 / 13;
  border-radius: 6px;
  background: var(--panel);
}
.none {
  margin: 8px 0;
}
.first {
  max-width: 860px;
  margin: 7vh auto 0;
  padding: 0 24px;
  text-align: center;
}
.first h2 {
  margin: 0 0 8px;
  font: 600 24px/1.25 var(--font);
}
.first p {
  color: var(--dim);
}
.ways {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 12px;
  margin: 28px 0 12px;
}
.way {
  display: grid;
  gap: 4px;
  padding: 22px 14px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--panel);
  color: var(--text);
  font: 13px var(--font);
  cursor: pointer;
}
.way.main {
  grid-column: 1 / -1;
  border-color: var(--brass);
  background: linear-gradient(100deg, #54719b66, #d9b49c44);
  font-size: 15px;
}
.way:hover:enabled {
  border-color: var(--brass);
}
.way span {
  color: var(--dim);
  font: 12.5px var(--font-condensed);
}
.with-chosen {
  position: fixed;
  left: 50%;
  bottom: 18px;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 8px 12px;
  transform: translateX(-50%);
  border: 1px solid var(--brass);
  border-radius: 6px;
  background: var(--raised);
  box-shadow: 0 6px 20px rgb(0 0 0 / 0.4);
}
.why {
  margin: 12px 24px;
  color: var(--warning);
}
</style>
