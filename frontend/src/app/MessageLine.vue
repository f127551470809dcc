<script setup lang="ts">
/** What the server said of the last step: good news or a refusal. */
defineProps<{ text: string; good?: boolean }>()
</script>

<template>
  <p
    v-if="text"
    :role="good ? 'status' : 'alert'"
    class="border-l-3 px-3 py-2"
    :class="good ? 'border-act bg-actsoft' : 'border-warn bg-warnsoft'"
  >
    {{ text }}
  </p>
</template>
