import { onBeforeUnmount, onMounted, ref } from 'vue'
import { useStage } from './stage'

/** A counter that goes up with every drawn frame, to read the stage's state from. */
export function useFrameTick() {
  const stage = useStage()
  const tick = ref(0)
  const up = () => void tick.value++
  onMounted(() => stage.drawn.add(up))
  onBeforeUnmount(() => stage.drawn.delete(up))
  return { tick, stage }
}
