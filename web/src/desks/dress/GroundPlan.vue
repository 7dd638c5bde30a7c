<script setup lang="ts">
// A drawing to build on: a picture, or a page of a PDF, is laid on the ground to scale. Two
// points in it and the length between them tell how large it is.
import { Map as MapIcon } from '@lucide/vue'
import { computed, ref } from 'vue'
import { stem, upload, type KeptImage } from '@/api/uploads'
import { useScene } from '@/stores/scene'
import NumberField from '@/ui/NumberField.vue'
import { sentence } from '@/ui/sentence'

const scene = useScene()
const open = ref(false)
const pages = ref<(KeptImage & { name: string })[]>([])
const page = ref(0)
const busy = ref('')
const trouble = ref('')
/** The two points, in pixels of the picture; the next press replaces the older one. */
const points = ref<[number, number][]>([])
const length = ref(5)
const plan = computed(() => pages.value[page.value])

function show() {
  open.value = true
  pages.value = []
  forget()
}
function forget() {
  points.value = []
  trouble.value = ''
}
async function take(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  forget()
  busy.value = `Taking in ${file.name}…`
  try {
    if (file.type === 'application/pdf' || /\.pdf$/i.test(file.name)) {
      const found = (await upload<{ pages: KeptImage[] }>('panels', file)).pages
      pages.value = found.map((p, i) => ({ ...p, name: found.length > 1 ? `${stem(file)} ${i + 1}` : stem(file) }))
    } else pages.value = [{ ...(await upload<KeptImage>('images', file)), name: stem(file) }]
    page.value = 0
  } catch (e) {
    trouble.value = sentence((e as Error).message)
  }
  busy.value = ''
}
function press(e: PointerEvent) {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const { width, height } = plan.value!
  const at: [number, number] = [
    ((e.clientX - box.left) / box.width) * width,
    ((e.clientY - box.top) / box.height) * height,
  ]
  points.value = [...points.value.slice(-1), at]
}
const apart = computed(() => {
  const [a, b] = points.value
  return a && b ? Math.hypot(a[0] - b[0], a[1] - b[1]) : 0
})
/** How large all of the picture is, in metres. */
const size = computed(() => {
  if (!plan.value || apart.value < 2) return null
  const pixel = length.value / apart.value
  return [plan.value.width * pixel, plan.value.height * pixel] as const
})
function lay() {
  const { blob, width, height, name } = plan.value!
  if (scene.run('planLay', { picture: { blob, width, height, name }, metres: size.value![0] })) open.value = false
}
</script>
<template>
  <button class="act wide" @click="show"><MapIcon :size="13" /> Ground plan…</button>
  <el-dialog v-model="open" title="A ground plan to build on" width="640" top="5vh" append-to-body>
    <label class="act file"
      >{{ plan ? 'Another drawing…' : 'Choose a drawing…' }}
      <input
        type="file"
        accept="image/png,image/jpeg,image/webp,image/tiff,application/pdf"
        aria-label="Drawing of the plan"
        @change="take"
    /></label>
    <label v-if="pages.length > 1" class="pick"
      >Page
      <select v-model.number="page" aria-label="Page of the drawing" @change="forget">
        <option v-for="(p, i) in pages" :key="p.blob" :value="i">{{ i + 1 }}</option>
      </select></label
    >
    <p v-if="busy" class="note" role="status">{{ busy }}</p>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <template v-if="plan">
      <p class="note">Press two points in it whose distance you know: the ends of a wall, or of the drawing's scale.</p>
      <div class="sheet">
        <div class="drawing" role="img" aria-label="The drawing" @pointerdown.prevent="press">
          <img :src="`/api/images/${plan.blob}`" alt="" draggable="false" />
          <svg :viewBox="`0 0 ${plan.width} ${plan.height}`" aria-hidden="true">
            <line
              v-if="points.length > 1"
              :x1="points[0]![0]"
              :y1="points[0]![1]"
              :x2="points[1]![0]"
              :y2="points[1]![1]"
            />
            <circle v-for="(p, i) in points" :key="i" :cx="p[0]" :cy="p[1]" :r="plan.width / 90" />
          </svg>
        </div>
      </div>
      <NumberField
        label="Length between them"
        unit="m"
        :value="length"
        @change="length = Math.max(0.01, $event)"
        @drag="length = Math.max(0.01, $event)"
      />
      <p class="note" role="status" aria-label="Size of the plan">
        {{
          size
            ? `The drawing is ${size[0].toFixed(2)} × ${size[1].toFixed(2)} m. It lies in the middle of the set, locked, and no camera sees it.`
            : `${2 - points.length} ${points.length === 1 ? 'point' : 'points'} to press.`
        }}
      </p>
    </template>
    <template #footer>
      <button class="act" @click="open = false">Cancel</button>
      <button class="act main" :disabled="!size" @click="lay">Lay it on the ground</button>
    </template>
  </el-dialog>
</template>
<style scoped>
.wide {
  width: 100%;
  justify-content: center;
  margin-top: 6px;
}
.sheet {
  display: flex;
  justify-content: center;
  margin: 8px 0;
}
.drawing {
  position: relative;
  background: #fff;
  cursor: crosshair;
}
.drawing img {
  display: block;
  max-width: 100%;
  max-height: 46vh;
}
.drawing svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
line,
circle {
  fill: none;
  stroke: #d0452f;
  stroke-width: 2px;
  vector-effect: non-scaling-stroke;
}
.trouble {
  color: var(--warning, #e8c15a);
}
</style>
