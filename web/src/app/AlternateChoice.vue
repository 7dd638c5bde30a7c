<script setup lang="ts">
// Which alternate is worked in.
import { Layers2, LayoutGrid, SquareStack } from '@lucide/vue'
import { computed } from 'vue'
import { useAlternates } from '@/stores/alternates'
import { useTip } from '@/stores/keys'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'

const alternates = useAlternates()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const tip = useTip()
/** The shot that would be worked in alone, or is. */
const shot = computed(() => scene.onlyIn || (scene.doc.shots[head.airShot] ? head.airShot : ''))
const number = computed(() => scene.doc.shots[shot.value]?.number ?? '')
</script>
<template>
  <span class="alternate" :style="{ '--alternate': alternates.here?.color ?? 'var(--line)' }">
    <el-select
      v-if="alternates.all.length"
      size="small"
      :model-value="scene.alternate"
      aria-label="Alternate"
      placeholder="the scene"
      :empty-values="[undefined]"
      :disabled="!!scene.past"
      @change="alternates.workIn"
    >
      <el-option value="" label="the scene" />
      <el-option v-for="a in alternates.all" :key="a.id" :value="a.id" :label="a.name" :disabled="a.shut">
        <span :style="{ paddingLeft: `${12 * a.depth}px` }"
          ><i class="dot" :style="{ background: a.color }"></i>{{ a.name }}</span
        >
      </el-option>
    </el-select>
    <button
      class="icon"
      :aria-label="number ? `Only in shot ${number}` : 'Only in this shot'"
      :title="tip('What is changed now is in the shot on air only', 'only in this shot, or in all again')"
      :aria-pressed="!!scene.onlyIn"
      :disabled="!shot || !!scene.past"
      @click="alternates.inShot(shot)"
    >
      <SquareStack :size="16" />
    </button>
    <button
      class="icon"
      aria-label="Alternates"
      title="Alternates: the same scene otherwise (/ flips)"
      :aria-pressed="view.alternates"
      :disabled="!scene.loaded"
      @click="view.alternates = !view.alternates"
    >
      <Layers2 :size="16" />
    </button>
    <button
      class="icon"
      aria-label="Side by side"
      :title="tip('Pictures side by side', 'pictures side by side, and back')"
      :aria-pressed="view.beside"
      :disabled="!scene.loaded || !!scene.past"
      @click="view.beside = !view.beside"
    >
      <LayoutGrid :size="16" />
    </button>
  </span>
</template>
<style scoped>
.alternate {
  display: flex;
  flex: 0 1 auto;
  align-items: center;
  gap: 2px;
}
.alternate :deep(.el-select) {
  width: 104px;
}
.alternate :deep(.el-select__wrapper) {
  box-shadow:
    inset 3px 0 0 var(--alternate),
    0 0 0 1px var(--line) inset;
}
@media (width < 1120px) {
  .alternate :deep(.el-select) {
    width: 84px;
  }
}
.dot {
  display: inline-block;
  width: 8px;
  height: 8px;
  margin-right: 7px;
  border-radius: 2px;
}
</style>
