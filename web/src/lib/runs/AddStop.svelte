<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import PlaceField from '$lib/map/PlaceField.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';
  import { costOf, letter, minutes } from './clock';

  /** A new stop, inserted where it costs least. */
  let { plan, onplan }: { plan: Schemas['RunPlanView']; onplan: (plan: Schemas['RunPlanView']) => void } = $props();
  let place = $state<Schemas['Candidate'] | null>(null);
  let called = $state('');
  let service = $state('10');
  let opens = $state('');
  let closes = $state('');
  const attempt = new Attempt();
  const insertion = (dry: boolean) => ({
    stop: {
      name: called || null,
      at: place && { label: place.label, latitude: place.point.latitude!, longitude: place.point.longitude! },
      service: Number(service) || 0,
      opens: opens.trim() ? (minutes(opens) ?? -1) : null,
      closes: closes.trim() ? (minutes(closes) ?? -1) : null,
      demand: 0,
      done: false,
      locked: false,
    },
    try: dry,
  });
  let where = $state<Schemas['RunChangeView'] | null>(null);
  const insert = (dry: boolean) =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/runs/{id}/insert', { params: { path: { id: plan.id } }, body: insertion(dry) }),
      );
      where = dry ? done : null;
      if (!done.plan) return;
      onplan(done.plan);
      showDone(
        `${called || place?.label} added to driver ${letter(done.driver)}, stop ${done.place + 1}: ${costOf(done)}.`,
      );
    });
</script>

<div class="bg-paper border-line mt-2 grid grid-cols-6 gap-2 rounded-md border p-3">
  <TextField class="col-span-2" label="Name" bind:value={called} maxlength={120} />
  <PlaceField class="col-span-4" label="Address" required bind:value={place} problem={attempt.at('stop.at')} />
  <TextField
    class="col-span-2"
    label="Service time, minutes"
    inputmode="numeric"
    bind:value={service}
    problem={attempt.at('stop.service')}
  />
  <TextField class="col-span-2" label="Opens" bind:value={opens} placeholder="08:00" />
  <TextField
    class="col-span-2"
    label="Closes"
    bind:value={closes}
    placeholder="12:00"
    problem={attempt.at('stop.closes')}
  />
  <div class="col-span-6 flex items-center gap-2">
    <Button small look="main" disabled={!place} busy={attempt.busy} onclick={() => insert(false)}
      >Insert at lowest cost</Button
    >
    <Button small look="quiet" disabled={!place} onclick={() => insert(true)}>Show cost</Button>
    {#if where}<span class="fig text-sm font-bold">{costOf(where)}, {letter(where.driver)}{where.place + 1}</span
      >{#if where.breaks}<span class="text-ember-word text-sm">{where.breaks}</span>{/if}{/if}
  </div>
</div>
