<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { counted } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** The company's list of trailer features. */
  type Row = { key: number; was: string | null; name: string; use: Schemas['FeatureUse'] | null };
  let rows = $state<Row[]>([]);
  let next = 0;
  const attempt = new Attempt();
  const show = (list: Schemas['FeatureUse'][]) =>
    (rows = list.map((use) => ({ key: next++, was: use.name, name: use.name, use })));
  take(api.GET('/api/trailer-features')).then(show, showError);
  const may = $derived(session.may('setup.edit'));
  const save = () =>
    attempt.run(async () => {
      const features = rows.filter((r) => r.was || r.name.trim()).map((r) => ({ was: r.was, name: r.name }));
      show(await take(api.PUT('/api/trailer-features', { body: { features } })));
      showDone('Trailer features saved.');
    });
  const uses = (use: Schemas['FeatureUse'] | null) =>
    [use?.trailers && counted(use.trailers, 'trailer'), use?.loads && counted(use.loads, 'open load')]
      .filter(Boolean)
      .join(', ');
</script>

<form
  class="mt-8 px-5"
  aria-label="Trailer features"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <h2 class="text-mute mb-1 text-sm font-bold">Trailer features</h2>
  <p class="text-mute mb-2 text-sm">What a trailer can have and a load can require, such as a liftgate.</p>
  <ul class="max-w-xl">
    {#each rows as row, i (row.key)}
      <li class="flex items-center gap-3 py-0.5">
        {#if may}
          <TextField
            class="w-56"
            label="Feature {i + 1}"
            bind:value={row.name}
            maxlength={30}
            problem={attempt.at(`features[${i}].name`)}
          />
          <span class="text-mute flex-1 pt-5 text-sm">{uses(row.use)}</span>
          <Button
            class="mt-5"
            small
            look="quiet"
            aria-label="Remove {row.name || `feature ${i + 1}`}"
            onclick={() => (rows = rows.filter((r) => r !== row))}>Remove</Button
          >
        {:else}<span class="w-56">{row.name}</span><span class="text-mute text-sm">{uses(row.use)}</span>{/if}
      </li>
    {/each}
  </ul>
  {#if attempt.refused && !attempt.refused.problems.some((p) => p.field?.endsWith('.name'))}<p
      class="text-ember-word mt-1 text-sm"
      role="alert"
    >
      {attempt.refused.message}
    </p>{/if}
  {#if may}<div class="mt-2 flex gap-2">
      <Button small onclick={() => (rows = [...rows, { key: next++, was: null, name: '', use: null }])}
        >Add a feature</Button
      >
      <Button small look="main" type="submit" busy={attempt.busy}>Save features</Button>
    </div>{/if}
</form>
