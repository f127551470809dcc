<script setup lang="ts">
import { ref } from 'vue'

/** Password and, where it is wanted, the code of a second factor. */
defineProps<{ busy: boolean; code: boolean }>()
const emit = defineEmits<{ submit: [password: string, code: string] }>()
const password = ref('')
const digits = ref('')
</script>

<template>
  <form @submit.prevent="emit('submit', password, digits)">
    <slot name="before" />
    <label class="mb-4 block">
      <span class="mb-1 block text-ink2">Password</span>
      <input
        v-model="password"
        class="input"
        name="password"
        type="password"
        autocomplete="current-password"
        required
      />
    </label>
    <label v-if="code" class="mb-4 block">
      <span class="mb-1 block text-ink2">Code from your device, or a recovery code</span>
      <input v-model="digits" class="input" name="code" autocomplete="one-time-code" required />
    </label>
    <div class="flex gap-2">
      <button class="btn btn-main flex-1" :disabled="busy">Sign in</button>
      <slot />
    </div>
  </form>
</template>
