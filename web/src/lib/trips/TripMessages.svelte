<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Part from '$ui/Part.svelte';
  import MessageThread from './MessageThread.svelte';

  /** Dispatch's side of a trip's messages; what is shown here is read. */
  let { sheet }: { sheet: Schemas['TripSheet'] } = $props();
  const t = $derived(sheet.trip);
  let messages = $state<Schemas['TripMessageRow'][]>([]);
  const path = () => ({ params: { path: { id: t.id } } });
  const load = latest(
    () => take(api.GET('/api/trips/{id}/messages', path())),
    (answer) => {
      messages = answer;
      if (session.may('loads.roll') && answer.some((m) => m.driverId !== null && !m.readAt))
        void take(api.POST('/api/trips/{id}/messages/read', path())).catch(showError);
    },
    showError,
  );
  onChange(
    () => t.id,
    () => {
      messages = [];
      void load();
      return live.follow(load, ['messages']);
    },
  );
  const to = $derived(session.may('loads.roll') && !t.canceledAt ? sheet.drivers.map((d) => d.name).join(' and ') : '');
  const send = (text: string) =>
    take(api.POST('/api/trips/{id}/messages', { ...path(), body: { text } })).then(() => load());
</script>

<Part title="Messages">
  <MessageThread {messages} {to} {send} />
</Part>
