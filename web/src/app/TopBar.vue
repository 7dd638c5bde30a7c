<script setup lang="ts">
import { CircleHelp, Search } from '@lucide/vue'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAlternates } from '@/stores/alternates'
import { useScene } from '@/stores/scene'
import { desks, useView } from '@/stores/view'
import AlternateChoice from './AlternateChoice.vue'
import EditState from './EditState.vue'
import SceneSettings from './SceneSettings.vue'

defineEmits<{ help: []; find: []; facts: [] }>()
const scene = useScene()
const view = useView()
const router = useRouter()
const settings = ref(false)
const go = (desk: string) => router.replace(`/scenes/${scene.id}/${desk}`)
const alternates = useAlternates()
function format(id: string) {
  if (alternates.follow('format', id)) return
  scene.run('set', {
    collection: 'settings',
    id: 'settings',
    merge: { format: id },
    label: `work in ${scene.doc.formats[id]!.name}`,
  })
}
</script>
<template>
  <header class="top">
    <router-link to="/" class="mark" aria-label="All scenes"
      ><img src="/mark.svg" alt="" width="24" height="24"
    /></router-link>
    <button
      class="crumbs"
      title="Scene settings"
      :aria-label="`Scene settings of ${scene.doc.settings.production} ${scene.doc.settings.title}`"
      :disabled="!scene.loaded"
      @click="settings = true"
    >
      <span class="dim">{{ scene.doc.settings.production }}</span> <b>{{ scene.doc.settings.title }}</b>
    </button>
    <SceneSettings v-if="settings" @close="settings = false" @facts="((settings = false), $emit('facts'))" />
    <nav class="ribbon" aria-label="Desks">
      <button
        v-for="d in desks"
        :key="d.id"
        :aria-current="view.desk === d.id ? 'page' : undefined"
        :title="d.hint"
        @click="go(d.id)"
      >
        {{ d.title }}
      </button>
    </nav>
    <span class="gap"></span>
    <AlternateChoice />
    <el-select
      class="format"
      size="small"
      :model-value="scene.doc.settings.format"
      aria-label="Format"
      @change="format"
    >
      <el-option v-for="(f, id) in scene.doc.formats" :key="id" :value="id" :label="f.name" />
    </el-select>
    <EditState />
    <button
      class="icon"
      aria-label="Find"
      title="Find anything (Ctrl K)"
      :disabled="!scene.loaded"
      @click="$emit('find')"
    >
      <Search :size="16" />
    </button>
    <button class="icon" aria-label="Keyboard" title="Keyboard (?)" @click="$emit('help')">
      <CircleHelp :size="17" />
    </button>
  </header>
</template>
<style scoped>
.top {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 44px;
  padding: 0 10px;
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
.mark {
  display: flex;
}
.crumbs {
  display: grid;
  min-width: 110px;
  max-width: 220px;
  margin-right: 4px;
  padding: 3px 6px;
  border: 1px solid transparent;
  border-radius: 4px;
  background: none;
  color: inherit;
  text-align: left;
  font: 12.5px/1.2 var(--font);
  cursor: pointer;
}
.crumbs:hover:enabled {
  border-color: var(--line);
  background: var(--raised);
}
.crumbs > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.crumbs .dim {
  font-size: 11px;
}
.ribbon {
  display: flex;
  height: 30px;
}
.ribbon button {
  padding: 0 20px 0 26px;
  margin-left: -9px;
  border: 0;
  background: var(--line);
  clip-path: polygon(0 0, calc(100% - 12px) 0, 100% 50%, calc(100% - 12px) 100%, 0 100%, 12px 50%);
  color: var(--text);
  font: 500 13px var(--font);
  cursor: pointer;
}
.ribbon button:first-child {
  margin-left: 0;
  padding-left: 16px;
  clip-path: polygon(0 0, calc(100% - 12px) 0, 100% 50%, calc(100% - 12px) 100%, 0 100%);
  border-radius: 4px 0 0 4px;
}
.ribbon button:hover {
  background: #3a505a;
}
.ribbon button[aria-current] {
  background: var(--brass);
  color: var(--ink);
}
.gap {
  flex: 1;
}
.format {
  flex: 0 1 132px;
  min-width: 72px;
}
@media (width < 1120px) {
  .crumbs {
    min-width: 60px;
  }
  .ribbon button {
    padding: 0 12px 0 20px;
  }
}
</style>
