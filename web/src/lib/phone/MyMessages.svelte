<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { showError } from '$lib/state/messages.svelte';
  import MessageThread from '$lib/trips/MessageThread.svelte';

  /** A driver's messages with dispatch; what is shown here is read. */
  interface Props {
    tripId: number;
    trip: string;
    /** Something that is new whenever the phone was told of a change. */
    changed: unknown;
  }
  let { tripId, trip, changed }: Props = $props();
  let messages = $state<Schemas['TripMessageRow'][]>([]);
  const path = () => ({ params: { path: { id: tripId } }, headers: { 'Lark-Via': 'phone' } });
  async function load() {
    try {
      messages = (await take(api.GET('/api/mine/messages'))).filter((m) => m.tripId === tripId);
      if (messages.some((m) => m.driverId === null && !m.readAt))
        await take(api.POST('/api/mine/trips/{id}/messages/read', path()));
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void [tripId, changed];
    void load();
  });
  const send = (text: string) =>
    take(api.POST('/api/mine/trips/{id}/messages', { ...path(), body: { text } })).then(load);
</script>

<section class="border-line mt-6 border-t pt-3" aria-label="Messages with dispatch">
  <h2 class="text-mute mb-2 text-sm font-bold">Messages, trip {trip}</h2>
  <MessageThread {messages} driver to="dispatch" {send} />
</section>
