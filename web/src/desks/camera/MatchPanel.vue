<script setup lang="ts">
// Matching the camera to a picture: which picture, whether the focal length is found too,
// and its points with how far off each is.
import { X } from '@lucide/vue'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import type { KeptImage } from '@/api/uploads'
import type { Vec3 } from '@/core/bridge'
import { useMatching, type InPicture } from '@/stores/matching'
import NumberField from '@/ui/NumberField.vue'
import { sentence } from '@/ui/sentence'
import PicturePicker from '../PicturePicker.vue'
import { useCamera } from './useCamera'

const props = defineProps<{ camera: string }>()
const { scene, view, tick } = useCamera(() => props.camera)
const matching = useMatching()
onMounted(() => matching.panels++)
onBeforeUnmount(() => matching.panels--)

const quality = computed(() => (void tick.value, matching.quality()))
const found = computed(() => !!quality.value && !quality.value.trouble)
const point = computed(() => matching.points[matching.chosen])

const another = ref(false) // another picture is being chosen
function show(picture: KeptImage) {
  matching.show(picture)
  another.value = false
}
function moveTo(axis: number, value: number) {
  const at = [...point.value!.at] as Vec3
  at[axis] = value
  const { name, args } = matching.moved(matching.chosen, { at })
  scene.run(name, args)
}
const next = computed(() => {
  const { in: picture, at } = matching.half
  if (picture) return 'Now press the same point in the set, beside the picture.'
  if (at) return 'Now press the same point in the picture.'
  return 'Press a point in the picture, then the same one in the set, or the other way round. Corners of a floor or wall are good ones.'
})
const off = (i: number) => {
  const p = quality.value?.points[i]
  return !p || matching.points.length < 4 ? '' : p.behind ? 'behind the camera' : `${p.off.toFixed(1)} px off`
}
const inWordsOf = (p: InPicture) => p.map((v) => v.toFixed(3)).join(', ')
</script>
<template>
  <div v-if="view.through !== camera" class="empty">
    <p>A camera is matched while it is looked through.</p>
    <button class="act" @click="view.lookThrough(camera)">Look through it</button>
  </div>
  <template v-else>
    <template v-if="!matching.match">
      <p class="dim note">
        A photo, a board or a frame of footage tells where the camera stood: some points of the set, and the same points
        in the picture.
      </p>
      <PicturePicker purpose="to match" :camera="camera" @picture="show" />
    </template>
    <template v-else>
      <p class="note" role="status" aria-label="Match">
        <template v-if="found">Found: within {{ quality!.error.toFixed(1) }} pixels</template>
        <template v-else-if="matching.points.length < 4">{{ matching.points.length }} of 4 points or more</template>
        <span v-else class="bad">{{ sentence(quality?.trouble ?? '') }}</span>
      </p>
      <p class="dim note">{{ next }}</p>
      <label class="line"
        >Opacity
        <input v-model.number="matching.opacity" type="range" min="0" max="100" aria-label="Opacity of the picture" />
      </label>
      <label class="check"
        ><input
          type="checkbox"
          :checked="matching.match.free"
          @change="matching.run({ free: ($event.target as HTMLInputElement).checked })"
        />
        find the focal length too</label
      >
      <label class="line"
        >Set in
        <el-select v-model="matching.surface" size="small" aria-label="Press points of the set in">
          <el-option value="scout" label="scout" />
          <el-option value="plan" label="plan and elevations" />
        </el-select>
      </label>
      <h3>Points</h3>
      <ul class="points" aria-label="Points of the match">
        <li v-for="(p, i) in matching.points" :key="i" :class="{ chosen: i === matching.chosen }">
          <button class="link" :aria-pressed="i === matching.chosen" @click="matching.chosen = i">
            {{ i + 1 }} <span class="dim">{{ off(i) || inWordsOf(p.in as InPicture) }}</span>
          </button>
          <button class="icon" :aria-label="`Remove point ${i + 1}`" @click="matching.remove(i)">
            <X :size="13" />
          </button>
        </li>
        <li v-if="!matching.points.length" class="dim">none yet</li>
      </ul>
      <template v-if="point">
        <h3>Point {{ matching.chosen + 1 }} in the set</h3>
        <NumberField
          v-for="(axis, k) in ['X', 'Y', 'Z']"
          :key="axis"
          :label="axis"
          unit="m"
          :digits="3"
          :value="point.at[k]!"
          @change="moveTo(k, $event)"
        />
      </template>
      <div class="row">
        <button class="act" :aria-pressed="another" @click="another = !another">Another picture…</button>
        <button class="act" @click="matching.away">Take it away</button>
      </div>
      <PicturePicker v-if="another" purpose="to match" :camera="camera" @picture="show" />
    </template>
  </template>
</template>
<style scoped>
input[type='range'] {
  width: 100%;
  accent-color: var(--brass);
}
.line {
  display: grid;
  grid-template-columns: 64px 1fr;
  gap: 8px;
  align-items: center;
  margin: 4px 0;
}
.points {
  margin: 0;
  padding: 0;
  list-style: none;
}
.points li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  min-height: 26px;
  border-radius: 4px;
  padding: 0 4px;
}
.points li.chosen {
  background: var(--raised);
}
.bad {
  color: var(--vermilion);
}
</style>
