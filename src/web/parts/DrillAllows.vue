<script setup lang="ts">
import Button from 'primevue/button';
import { ref } from 'vue';
import type { DrillReach } from '../../core/drill/reach.ts';
import { useActs } from '../act.ts';
import { api } from '../api.ts';
import { plural } from '../words.ts';

/** What a drill from outside would type where. It is played once a person has looked at this. */
const { drill, asks } = defineProps<{ drill: string; asks: DrillReach & { allowed: boolean } }>();
const emit = defineEmits<{ allowed: [] }>();
const { busy, act } = useActs();
const looked = ref(false);

const allow = (): Promise<void> =>
  act(async () => {
    const { hosts, secrets, files } = asks;
    await api('POST', `/drills/${drill}/confirm`, { hosts, secrets, files });
    emit('allowed');
  }, 'It was not allowed');
</script>

<template>
  <section class="allows" :class="{ open: !asks.allowed }" aria-label="What this drill types">
    <h2>{{ asks.allowed ? 'Allowed' : 'Look at this before it is played' }}</h2>
    <p v-if="!asks.allowed">
      This drill was made from evidence that somebody brought in. It types secrets or files of this machine. Whoever
      made the evidence chose where.
    </p>
    <dl>
      <dt>Sites</dt>
      <dd>
        <code v-for="host in asks.hosts" :key="host">{{ host }}</code>
        <span v-if="!asks.hosts.length">none is named</span>
      </dd>
      <template v-if="asks.secrets.length">
        <dt>Secrets</dt>
        <dd>
          <code v-for="name in asks.secrets" :key="name">{{ name }}</code>
        </dd>
      </template>
      <template v-if="asks.files.length">
        <dt>Files</dt>
        <dd>
          <code v-for="path in asks.files" :key="path">{{ path }}</code>
        </dd>
      </template>
      <template v-if="asks.scripts">
        <dt>Scripts</dt>
        <dd>it runs {{ plural(asks.scripts, 'script') }} of its own in these pages; they stand in its text</dd>
      </template>
    </dl>
    <form v-if="!asks.allowed" @submit.prevent="allow">
      <label><input v-model="looked" type="checkbox" /> I know these sites, and they may get this.</label>
      <Button type="submit" label="Allow" size="small" :disabled="!looked || busy" />
    </form>
  </section>
</template>

<style scoped>
.allows {
  margin: 0;
  padding: 8px 18px;
  border-bottom: 1px solid var(--line);
  font-size: 12.5px;
}
.allows.open {
  background: var(--amber-pale);
}
h2 {
  margin: 0 0 4px;
  font-size: 13px;
}
p {
  margin: 0 0 6px;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 3px 12px;
  margin: 0;
}
dt {
  color: var(--soft);
}
dd {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 10px;
  margin: 0;
}
code {
  overflow-wrap: anywhere;
}
form {
  display: flex;
  align-items: center;
  gap: 14px;
  margin-top: 8px;
}
label {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
</style>
