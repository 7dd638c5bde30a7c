<script setup lang="ts">
// What is done to the cut from the strip's bar: the grip, splitting, placing,
// live takes and the strip's layout.
import { useTip } from '@/stores/keys'
import {
  AlignHorizontalJustifyStart,
  CircleDot,
  CornerDownRight,
  Minus,
  MoveRight,
  Plus,
  SquareSplitHorizontal,
} from '@lucide/vue'
import { computed } from 'vue'
import { grips, useCutting } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useCutActions, type Placing } from './useCutActions'
import WatchMenu from './WatchMenu.vue'

const tip = useTip()

const head = usePlayhead()
const cutting = useCutting()
const scene = useScene()
const actions = useCutActions()
/** Whether what is tied to the sequence goes along with later shots. */
const follows = computed(() => !scene.doc.assemblies[scene.cut.assembly]?.fixed)
const hint = computed(() => grips.find((g) => g.id === cutting.grip)!.hint)
</script>
<template>
  <button
    class="icon"
    aria-label="Split"
    :title="tip('Split the shot at the playhead', 'split the shot at the playhead')"
    @click="actions.split()"
  >
    <SquareSplitHorizontal :size="14" />
  </button>
  <el-dropdown trigger="click" @command="(c: Placing) => actions.place(c)">
    <button class="act" title="Put a shot of the selected camera"><Plus :size="14" /> Shot</button>
    <template #dropdown>
      <el-dropdown-menu>
        <el-dropdown-item command="append">{{ tip('Add at the end', 'add a shot at the end') }}</el-dropdown-item>
        <el-dropdown-item command="insert">{{
          tip('Insert at the playhead', 'insert a shot of the selected camera')
        }}</el-dropdown-item>
        <el-dropdown-item command="overwrite">{{
          tip('Overwrite from the playhead', 'overwrite with a shot of the selected camera')
        }}</el-dropdown-item>
        <el-dropdown-item command="card">Insert a title card</el-dropdown-item>
      </el-dropdown-menu>
    </template>
  </el-dropdown>
  <div class="grips" v-arrows role="radiogroup" aria-label="A drag does" :title="tip(hint, 'what a drag does next')">
    <button
      v-for="g in grips"
      :key="g.id"
      role="radio"
      :aria-checked="cutting.grip === g.id"
      :title="`${g.title}: ${g.hint}`"
      @click="cutting.grip = g.id"
    >
      {{ g.title }}
    </button>
  </div>
  <button
    v-if="cutting.grip === 'ripple'"
    class="icon"
    aria-label="The story goes along"
    :title="
      cutting.along
        ? 'What follows on begins where the shot now ends in the story'
        : 'Later shots go on showing what they show'
    "
    :aria-pressed="cutting.along"
    @click="cutting.along = !cutting.along"
  >
    <span class="story">◷</span><MoveRight :size="12" />
  </button>
  <button
    class="icon"
    aria-label="Markers, sound and spare lanes follow"
    :title="
      follows
        ? 'When later shots move, markers and sound of the sequence and spare lanes go along'
        : 'When later shots move, markers and sound of the sequence and spare lanes stay'
    "
    :aria-pressed="follows"
    @click="scene.run('assemblySet', { id: scene.cut.assembly, fixed: follows })"
  >
    <CornerDownRight v-if="follows" :size="14" /><Minus v-else :size="14" />
  </button>
  <button
    class="icon"
    aria-label="Snapping"
    title="Edges snap (Alt lets go)"
    :aria-pressed="cutting.snapping"
    @click="cutting.snapping = !cutting.snapping"
  >
    <AlignHorizontalJustifyStart :size="14" />
  </button>
  <button
    class="act live"
    :class="{ loud: head.armed }"
    :aria-pressed="head.armed"
    :title="tip('Record a take: play, and put cameras on air with the wall or the digits', 'record a live take')"
    @click="head.armed = !head.armed"
  >
    <CircleDot :size="14" /> {{ head.taking ? 'Taking' : 'Live' }}
  </button>
  <template v-if="head.armed || head.take">
    <label class="small" title="Frames that are played before the take"
      >pre-roll
      <input
        v-typed
        type="number"
        min="0"
        max="480"
        aria-label="Pre-roll"
        :value="head.preroll"
        @keydown.stop
        @change="head.preroll = Math.max(0, Math.round(Number(($event.target as HTMLInputElement).value) || 0))"
    /></label>
  </template>
  <button
    class="icon"
    aria-label="Half speed"
    title="Play at half speed"
    :aria-pressed="head.pace === 0.5"
    @click="head.pace = head.pace === 1 ? 0.5 : 1"
  >
    ½
  </button>
  <WatchMenu />
  <button
    class="icon"
    aria-label="Story-time layout"
    :title="tip('Lay the same shots out in story time', 'story-time layout')"
    :aria-pressed="cutting.storyLayout"
    @click="cutting.storyLayout = !cutting.storyLayout"
  >
    <span class="story">◷</span>
  </button>
</template>
<style scoped>
.grips {
  display: flex;
  height: 26px;
  border: 1px solid var(--line);
  border-radius: 4px;
  overflow: hidden;
}
.grips button {
  padding: 0 7px;
  border: 0;
  background: var(--raised);
  color: var(--dim);
  font: 12px var(--font-condensed);
  cursor: pointer;
}
.grips button[aria-checked='true'] {
  background: var(--line);
  color: var(--text);
}
.live.loud {
  background: var(--brass);
  border-color: var(--brass);
  color: var(--ink);
}
.small {
  display: flex;
  gap: 4px;
  align-items: center;
  color: var(--dim);
}
.small input {
  width: 48px;
  height: 24px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12px var(--font-mono);
}
</style>
