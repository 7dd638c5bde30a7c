<script setup lang="ts">
// The board of a shot over the picture: at any opacity, wiped across it, or
// beside it.
import { Columns2, Image as Panel } from '@lucide/vue'
import { computed, ref, watch } from 'vue'
import { ElMessage } from 'element-plus'
import { useLocalStorage } from '@vueuse/core'
import { stem, upload, type KeptImage } from '@/api/uploads'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'

const props = defineProps<{
  camera: string
  box: { x: number; y: number; width: number; height: number }
  /** The shot whose board it is, when it is known. */
  shot?: string
  /** Only over the picture: standing beside it is somebody else's. */
  overOnly?: boolean
}>()
const beside = defineModel<boolean>('beside', { required: true })
const scene = useScene()
const head = usePlayhead()
const over = useLocalStorage('proscen.board', { opacity: 50, wipe: 100 })
const open = ref(false)
/** The shot whose board it is: the one on air with this camera, or its first. */
const shot = computed(() => {
  if (props.shot) return props.shot
  if (head.airCamera === props.camera && head.airShot) return head.airShot
  return scene.cut.shots.find((s) => scene.doc.shots[s.id]?.camera === props.camera)?.id ?? ''
})
const number = computed(() => scene.doc.shots[shot.value]?.number ?? '')
/** The board that is held at the playhead, else the first. */
const board = computed(() => {
  const all = Object.values(scene.doc.boards).filter((b) => b.shot === shot.value)
  all.sort((a, b) => (a.at ?? 0) - (b.at ?? 0))
  const at = head.screen - (scene.doc.shots[shot.value]?.screenIn ?? 0)
  return (head.airShot === shot.value && all.findLast((b) => (b.at ?? 0) <= at)) || all[0]
})
const address = computed(() => (board.value ? `/api/images/${board.value.blob}` : ''))
watch([open, board], () => {
  if (!open.value || !board.value) beside.value = false
})
const style = computed(() => ({
  left: `${beside.value ? props.box.x * 2 + props.box.width - 4 : props.box.x}px`,
  top: `${props.box.y}px`,
  width: `${props.box.width}px`,
  height: `${props.box.height}px`,
  opacity: beside.value ? 1 : over.value.opacity / 100,
  clipPath: beside.value ? 'none' : `inset(0 ${100 - over.value.wipe}% 0 0)`,
}))
async function take(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    const kept = await upload<KeptImage>('images', file)
    scene.run('boardAdd', { shot: shot.value, name: stem(file), ...kept })
  } catch (e) {
    ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
  }
}
</script>
<template>
  <img v-if="open && board" class="board" :src="address" :alt="board.name" :style="style" />
  <div class="bar" :class="{ low: overOnly }" @pointerdown.stop @wheel.stop>
    <template v-if="open">
      <template v-if="board">
        <label
          >opacity
          <input
            v-model.number="over.opacity"
            type="range"
            min="0"
            max="100"
            aria-label="Opacity of the board"
            :disabled="beside"
        /></label>
        <label
          >wipe
          <input
            v-model.number="over.wipe"
            type="range"
            min="0"
            max="100"
            aria-label="Wipe of the board"
            :disabled="beside"
        /></label>
        <button
          v-if="!overOnly"
          class="icon"
          aria-label="Board beside the picture"
          title="Side by side"
          :aria-pressed="beside"
          @click="beside = !beside"
        >
          <Columns2 :size="15" />
        </button>
      </template>
      <span v-else-if="shot">Shot {{ number }} has no board.</span>
      <span v-else>No shot uses this camera yet.</span>
      <label v-if="shot" class="act file"
        >{{ board ? 'Other picture…' : 'Choose a picture…' }}
        <input
          type="file"
          accept="image/png,image/jpeg,image/webp,image/tiff"
          aria-label="Picture of the board"
          @change="take"
      /></label>
    </template>
    <button
      class="icon"
      aria-label="Board"
      :title="`Hold the board of shot ${number || '–'} against the picture`"
      :aria-pressed="open"
      @click="open = !open"
    >
      <Panel :size="15" />
    </button>
  </div>
</template>
<style scoped>
.board {
  position: absolute;
  object-fit: contain;
  background: #e8e4da;
  pointer-events: none;
}
.bar {
  position: absolute;
  right: 14px;
  top: 14px;
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: 12px;
}
/* In the program the upper corner has the tally. */
.bar.low {
  left: 146px; /* after the four tools of the program */
  right: auto;
  top: auto;
  bottom: 14px;
  flex-direction: row-reverse;
}
.bar label,
.bar span {
  display: flex;
  gap: 4px;
  align-items: center;
  padding: 0 6px;
  border-radius: 4px;
  background: rgb(17 24 27 / 0.7);
}
.bar input[type='range'] {
  width: 90px;
  accent-color: var(--brass);
}
</style>
