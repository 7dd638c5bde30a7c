<script setup lang="ts">
// Pictures side by side in the place of the desk: two, three, four or six, or two of them
// with a wipe between; the strip below plays them in step.
import { Download, X } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { api, ask } from '@/api/client'
import { useAlternates } from '@/stores/alternates'
import { layouts, useComparing, type Side } from '@/stores/comparing'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useTip } from '@/stores/keys'
import { useView } from '@/stores/view'
import { useDrag } from '@/ui/useDrag'
import { saveFrom } from '@/ui/save'
import { sentence } from '@/ui/sentence'
import SidePicture from './SidePicture.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const alternates = useAlternates()
const comparing = useComparing()
const tip = useTip()
const wipe = ref(0.5)
const room = ref<HTMLElement | null>(null)
const columns = computed(() => ({ 2: 2, 3: 3, 4: 2, 6: 3 })[comparing.how.layout])
const pick = (layout: (typeof layouts)[number]) => comparing.keep({ layout, wiped: false })

const { begin } = useDrag()
/** The wipe goes with the pointer, and back when that is taken back. */
function down(e: PointerEvent) {
  const was = wipe.value
  const move = (to: PointerEvent) => {
    const b = room.value!.getBoundingClientRect()
    wipe.value = Math.max(0, Math.min(1, (to.clientX - b.x) / b.width))
  }
  begin(e, e.currentTarget as Element, { move, abandon: () => (wipe.value = was) })
}
function nudge(e: KeyboardEvent) {
  const by = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[e.key]
  if (!by) return
  e.preventDefault()
  e.stopPropagation()
  wipe.value = Math.max(0, Math.min(1, wipe.value + by))
}

const making = ref(false)
/** A sheet of the pictures that are seen, or of the same frame of every alternate. */
async function sheet(as: 'png' | 'pdf', of: Side[]) {
  if (making.value) return
  making.value = true
  try {
    const pictures = of.flatMap(({ alternate, assembly, format, camera: by }) => {
      const { screen, playing } = comparing.airOf({ alternate, assembly, format, camera: by })
      const camera = by || (scene.cut.shots.length ? '' : (playing[0]?.camera ?? '')) // nothing is cut yet
      const frame = Math.round(camera ? head.story : screen)
      return playing.length ? [{ alternate, assembly, camera, format, frame }] : []
    })
    const dark = of.length - pictures.length
    if (dark)
      ElMessage({
        message: `${dark} of ${of.length} pictures show nothing at this frame, and ${dark === 1 ? 'is' : 'are'} left out.`,
        type: 'info',
        showClose: true,
      })
    if (!pictures.length) return
    await scene.flushed() // the server draws what is saved
    const blob = await ask<Blob>(
      api.POST('/scenes/{scene}/beside', {
        params: { path: { scene: scene.id } },
        body: { as, pictures },
        parseAs: 'blob',
      }) as never,
    )
    const address = URL.createObjectURL(blob)
    saveFrom(address, `${scene.doc.settings.title} side by side.${as}`)
    setTimeout(() => URL.revokeObjectURL(address), 10_000)
  } catch (e) {
    ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
  } finally {
    making.value = false
  }
}
/** The picture that leads, in the scene itself and in every alternate. */
const everywhere = computed(() =>
  ['', ...alternates.all.filter((a) => !a.shut).map((a) => a.id)].map((alternate) => ({
    ...comparing.sides[comparing.lead]!,
    alternate,
  })),
)
</script>
<template>
  <section class="beside" aria-label="Side by side">
    <header>
      <h2>Side by side</h2>
      <div class="row" role="group" aria-label="How many">
        <button
          v-for="n in layouts"
          :key="n"
          class="act"
          :aria-pressed="!comparing.how.wiped && comparing.how.layout === n"
          @click="pick(n)"
        >
          {{ n }}
        </button>
        <button class="act" :aria-pressed="comparing.how.wiped" @click="comparing.keep({ wiped: true })">wipe</button>
      </div>
      <label
        >in step by
        <select
          :value="comparing.how.step"
          aria-label="In step by"
          title="What the pictures have in common: the frame of the cut, or the moment of the story"
          @change="comparing.keep({ step: ($event.target as HTMLSelectElement).value as 'cut' | 'story' })"
        >
          <option value="cut">the cut</option>
          <option value="story">the story</option>
        </select></label
      >
      <span class="gap"></span>
      <el-dropdown trigger="click" size="small">
        <button class="act" :disabled="making"><Download :size="14" /> {{ making ? 'Making…' : 'Sheet' }}</button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item @click="sheet('png', comparing.sides)">Of these pictures, PNG</el-dropdown-item>
            <el-dropdown-item @click="sheet('pdf', comparing.sides)">Of these pictures, PDF</el-dropdown-item>
            <el-dropdown-item v-if="alternates.all.length" @click="sheet('png', everywhere)"
              >Of all alternates, PNG</el-dropdown-item
            >
            <el-dropdown-item v-if="alternates.all.length" @click="sheet('pdf', everywhere)"
              >Of all alternates, PDF</el-dropdown-item
            >
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <button
        class="icon"
        aria-label="Back to the desk"
        :title="tip('Back to the desk', 'pictures side by side, and back')"
        @click="view.beside = false"
      >
        <X :size="15" />
      </button>
    </header>
    <div v-if="comparing.how.wiped" ref="room" class="room wiped">
      <SidePicture :number="0" />
      <SidePicture :number="1" :from="wipe" />
      <div
        class="line"
        role="slider"
        tabindex="0"
        aria-label="Wipe"
        aria-valuemin="0"
        aria-valuemax="100"
        :aria-valuenow="Math.round(wipe * 100)"
        :style="{ left: `${wipe * 100}%` }"
        @pointerdown="down"
        @keydown="nudge"
      ></div>
    </div>
    <div v-else class="room" :style="{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }">
      <SidePicture v-for="(_, i) in comparing.sides" :key="i" :number="i" />
    </div>
  </section>
</template>
<style scoped>
.beside {
  display: grid;
  grid-template-rows: 36px minmax(0, 1fr);
  height: 100%;
}
header {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 0 12px;
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
header .row {
  margin: 0;
}
h2 {
  margin: 0;
  font: 600 13px var(--font);
}
label {
  color: var(--dim);
  font-size: 12px;
}
select {
  padding: 2px 4px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12px var(--font-condensed);
}
.gap {
  flex: 1;
}
.room {
  position: relative;
  display: grid;
  grid-auto-rows: minmax(0, 1fr);
  gap: 4px 10px;
  min-height: 0;
  padding: 2px 10px 8px;
}
.room.wiped {
  padding-inline: 0;
}
.wiped :deep(figcaption) {
  padding-inline: 10px;
}
.line {
  position: absolute;
  top: 28px;
  bottom: 0;
  width: 13px;
  margin-left: -6px;
  background: linear-gradient(var(--parchment, #efe9dc), var(--parchment, #efe9dc)) center / 1.5px 100% no-repeat;
  cursor: ew-resize;
  touch-action: none;
}
.line:focus-visible {
  background-size: 3px 100%;
}
</style>
