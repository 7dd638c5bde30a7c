<script setup lang="ts">
// A scene on the home page: its picture and what it is.
import { useIntersectionObserver } from '@vueuse/core'
import { Ellipsis, Mountain } from '@lucide/vue'
import { nextTick, ref, watch } from 'vue'
import type { SceneInfo } from '@/api/client'
import { useHome } from '@/stores/home'
import { ago } from '@/ui/ago'
import { perSecond, rateName } from '@/ui/rates'

const props = defineProps<{ scene: SceneInfo; waiting: number }>()
const emit = defineEmits<{ open: []; menu: [what: string] }>()
const home = useHome()
const card = ref<HTMLElement | null>(null)
const near = ref(false)
useIntersectionObserver(card, ([e]) => (near.value = !!e?.isIntersecting), { rootMargin: '200px' })
watch([near, () => props.scene.revision], () => near.value && home.picture(props.scene), { immediate: true })

/** Somebody has come to the card, with the pointer or the keyboard. */
const at = ref(false)
const renaming = ref(false)
const field = ref<HTMLInputElement | null>(null)
async function rename() {
  renaming.value = true
  await nextTick()
  field.value?.select()
}
async function renamed(e: Event) {
  if (!renaming.value) return
  renaming.value = false
  const title = (e.target as HTMLInputElement).value.trim()
  if (title && title !== props.scene.title) await home.change([props.scene.id], { title })
}
function choose(e: MouseEvent | KeyboardEvent) {
  if (home.chosen.has(props.scene.id)) home.chosen.delete(props.scene.id)
  else home.chosen.add(props.scene.id)
  e.stopPropagation()
}
function pressed(e: MouseEvent) {
  if (e.ctrlKey || e.metaKey || e.shiftKey) choose(e)
  else emit('open')
}
function length(s: SceneInfo) {
  const seconds = Math.round(s.frames / perSecond(s.rate))
  return seconds < 60 ? `${seconds} s` : `${Math.floor(seconds / 60)} min ${seconds % 60} s`
}
function key(e: KeyboardEvent) {
  if (e.key === ' ') choose(e)
  else if (e.key === 'F2' && !props.scene.binnedAt) void rename()
  else if (e.key === 'Delete' && !props.scene.binnedAt) emit('menu', 'bin')
  else return
  e.preventDefault()
}
const menu = (what: string) => (what === 'rename' ? void rename() : emit('menu', what))
</script>
<template>
  <article
    ref="card"
    class="card"
    :class="{ chosen: home.chosen.has(scene.id) }"
    :data-scene="scene.id"
    @pointerenter="at = true"
    @focusin="at = true"
  >
    <button class="open" :aria-label="`Open ${scene.title}`" @click="pressed" @keydown="key">
      <img
        v-if="scene.pictured >= 0"
        :src="`/api/scenes/${scene.id}/picture?of=${scene.pictured}`"
        alt=""
        loading="lazy"
        decoding="async"
      />
      <Mountain v-else-if="near" :size="38" :stroke-width="1" aria-hidden="true" />
    </button>
    <input
      type="checkbox"
      class="pick"
      :checked="home.chosen.has(scene.id)"
      :aria-label="`Choose ${scene.title}`"
      @click="choose"
    />
    <div class="words">
      <input
        v-if="renaming"
        ref="field"
        v-typed
        class="title"
        :value="scene.title"
        aria-label="New title"
        maxlength="200"
        @keydown.enter="renamed"
        @keydown.esc="renaming = false"
        @blur="renamed"
      />
      <b v-else class="title" @dblclick="scene.binnedAt || rename()">{{ scene.title }}</b>
      <!-- A menu is only made for a card that somebody is at: there may be hundreds. -->
      <button v-if="!at" class="more" :aria-label="`More for ${scene.title}`">
        <Ellipsis v-if="near" :size="16" />
      </button>
      <el-dropdown v-else trigger="click" placement="bottom-end" @command="menu">
        <button class="more" :aria-label="`More for ${scene.title}`"><Ellipsis :size="16" /></button>
        <template #dropdown>
          <el-dropdown-menu>
            <template v-if="scene.binnedAt">
              <el-dropdown-item command="unbin">Take out of the bin</el-dropdown-item>
            </template>
            <template v-else>
              <el-dropdown-item command="rename">Rename</el-dropdown-item>
              <el-dropdown-item command="copy">Duplicate</el-dropdown-item>
              <el-dropdown-item command="pack">Pack as a file</el-dropdown-item>
              <el-dropdown-item command="move">Move to another production</el-dropdown-item>
              <el-dropdown-item :command="scene.archived ? 'unarchive' : 'archive'">{{
                scene.archived ? 'Take out of the archive' : 'Archive'
              }}</el-dropdown-item>
              <el-dropdown-item command="bin" divided>To the bin</el-dropdown-item>
            </template>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <span class="figures"
        >{{
          scene.shots ? `${scene.shots} ${scene.shots === 1 ? 'shot' : 'shots'} · ${length(scene)}` : 'no shots yet'
        }}
        · {{ rateName(scene.rate) }} f/s</span
      >
      <span class="when"
        >{{ scene.binnedAt ? `thrown away ${ago(scene.binnedAt)}` : ago(scene.editedAt)
        }}<template v-if="scene.editedBy && !scene.binnedAt"> · {{ scene.editedBy }}</template></span
      >
      <span v-if="waiting" class="waits">{{
        waiting === 1
          ? '1 of your edits waits: open it to bring it in'
          : `${waiting} of your edits wait: open it to bring them in`
      }}</span>
    </div>
  </article>
</template>
<style scoped>
.card {
  position: relative;
  content-visibility: auto; /* those out of sight cost nothing */
  contain-intrinsic-size: 240px 206px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--panel);
  overflow: hidden;
}
.card:hover {
  border-color: var(--dim);
}
.card.chosen {
  border-color: var(--brass);
  box-shadow: inset 0 0 0 1px var(--brass);
}
.open {
  display: grid;
  place-items: center;
  width: 100%;
  aspect-ratio: 16 / 9;
  padding: 0;
  border: 0;
  background: linear-gradient(#54719b55, #d9b49c33 70%, #4f535855);
  color: var(--dim);
  cursor: pointer;
}
.open:focus-visible {
  outline-offset: -3px;
}
.open img {
  width: 100%;
  height: 100%;
  object-fit: cover;
  display: block;
}
.pick {
  position: absolute;
  left: 8px;
  top: 8px;
  width: 16px;
  height: 16px;
  margin: 0;
  opacity: 0;
  accent-color: var(--brass);
}
.card:hover .pick,
.pick:focus-visible,
.pick:checked {
  opacity: 1;
}
.words {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 1px 6px;
  padding: 8px 6px 9px 10px;
}
.title {
  font: 600 13px/20px var(--font);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
input.title {
  border: 1px solid var(--brass);
  border-radius: 4px;
  background: var(--raised);
  color: inherit;
}
.more {
  display: grid;
  place-items: center;
  width: 24px;
  height: 20px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--dim);
  cursor: pointer;
}
.more:hover {
  background: var(--raised);
  color: var(--text);
}
.figures,
.when,
.waits {
  grid-column: 1 / -1;
  font: 12px/16px var(--font-condensed);
}
.figures {
  color: var(--text);
}
.when {
  color: var(--dim);
}
.waits {
  color: var(--warning);
}
</style>
