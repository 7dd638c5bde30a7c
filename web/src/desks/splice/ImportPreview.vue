<script setup lang="ts">
// What a file will do to the scene, before anything happens.
import type { Brought } from '@/core/bridge'
import LeftOut from '@/ui/LeftOut.vue'

defineProps<{ file: string; brought: Brought }>()
defineEmits<{ bring: []; cancel: [] }>()
</script>
<template>
  <el-dialog :model-value="true" :title="`Import ${file}`" width="560" append-to-body @close="$emit('cancel')">
    <div class="will">
      <table aria-label="What will change">
        <tbody>
          <tr v-for="(c, i) in brought.will" :key="i">
            <th scope="row">{{ c.what }}</th>
            <td>
              <span v-if="c.was" class="was">{{ c.was }}</span>
              <span v-if="c.was" aria-label="becomes"> → </span>
              <span>{{ c.is || 'nothing' }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <LeftOut :notes="brought.notes" />
    <p class="note">It is one step, which undo takes back.</p>
    <template #footer>
      <button class="act" @click="$emit('cancel')">Cancel</button>
      <button class="act main" @click="$emit('bring')">Bring in</button>
    </template>
  </el-dialog>
</template>
<style scoped>
.will {
  max-height: 320px;
  overflow: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}
th,
td {
  padding: 4px 8px 4px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
  vertical-align: top;
  white-space: pre-line;
}
th {
  width: 45%;
  font-weight: normal;
}
.was {
  color: var(--dim);
  text-decoration: line-through;
}
</style>
