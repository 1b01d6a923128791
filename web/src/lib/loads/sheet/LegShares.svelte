<script lang="ts">
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import TextField from '$ui/TextField.svelte';

  /** How the legs of a split load share its revenue: by miles, or as a user sets it. */
  interface Props {
    view: Schemas['LoadSheetView'];
    onchanged: () => Promise<void>;
  }
  let { view, onchanged }: Props = $props();
  const l = $derived(view.sheet.load);
  const shares = $derived(view.shares!);
  const attempt = new Attempt();
  let editing = $state(false);
  let typed = $state<string[]>([]);
  onChange(
    () => l.id,
    () => {
      editing = false;
    },
  );
  const may = $derived(session.may('loads.cover') && !view.sheet.legs.some((g) => g.settlementId));
  const sum = $derived(typed.reduce((all, t) => all + (Number(t) || 0), 0));
  const set = (values: number[] | null) =>
    take(
      api.PUT('/api/loads/{id}/shares', {
        params: { path: { id: l.id } },
        body: { shares: values },
        headers: ifMatch(l.version),
      }),
    );
  const save = (values: number[] | null) =>
    attempt.run(async () => {
      showDone(`${(await set(values)).summary}.`);
      editing = false;
      await onchanged();
    });
  function edit() {
    typed = shares.percents.map(String);
    editing = true;
  }
</script>

<div class="border-line mt-2 border-t pt-2">
  {#if editing}
    <InnerForm
      {attempt}
      action="Set shares"
      onact={() => save(typed.map((t) => Number(t)))}
      oncancel={() => (editing = false)}
    >
      <div class="grid grid-cols-2 gap-3" role="group" aria-label="Shares of the revenue">
        {#each view.legs as leg, i (leg.legId)}
          <TextField
            label="{leg.lane.replace(' to ', ' → ')}, %"
            inputmode="decimal"
            bind:value={typed[i]}
            problem={i === 0 ? attempt.at('shares') : undefined}
          />
        {/each}
      </div>
      <p class="text-mute text-sm">
        {Math.round(sum * 100) / 100} % together. Margin by leg, and pay by percentage, follow the shares.
        {#if shares.set}<button type="button" class="text-lark ml-1 underline" onclick={() => save(null)}
            >Share by miles</button
          >{/if}
      </p>
    </InnerForm>
  {:else}
    <p class="flex items-baseline justify-between gap-2 text-sm">
      <span class={shares.asked ? 'text-marigold-word' : 'text-mute'}
        >{shares.asked
          ? 'Driver pay depends on each leg’s share of the revenue. By miles:'
          : shares.set
            ? 'Shares of the revenue:'
            : 'Shares of the revenue, by miles:'}
        <span class="fig">{shares.percents.map((p) => `${p} %`).join(' · ')}</span></span
      >
      {#if may}<Button small look="quiet" onclick={edit}>Set shares</Button>{/if}
    </p>
  {/if}
</div>
