<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { figure, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatLocal, localAt } from '$lib/time/when';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import { codMethods } from './labels';

  /** Cash on delivery: what the driver collects, and recording what they did collect. */
  interface Props {
    loadId: number;
    cod: Schemas['CodRow'];
    /** Whether the driver records it on the phone. */
    mine?: boolean;
    may: boolean;
    onchanged: () => void;
  }
  let { loadId, cod, mine = false, may, onchanged }: Props = $props();
  let open = $state(false);
  // svelte-ignore state_referenced_locally -- where it begins
  let collected = $state<Schemas['Money'] | null>(cod.amount);
  let method = $state('');
  const attempt = new Attempt();
  const send = (body: Schemas['CodRequest']) => {
    const to = { params: { path: { id: loadId } }, body };
    return take(mine ? api.PUT('/api/mine/loads/{id}/cod', to) : api.PUT('/api/loads/{id}/cod', to));
  };
  const save = (body: Schemas['CodRequest']) =>
    attempt.run(async () => {
      const was = { collected: cod.collected, method: cod.method };
      const done = await send(body);
      open = false;
      showDone(done.summary, async () => {
        await send(was);
        onchanged();
      });
      onchanged();
    });
</script>

<div>
  <p>
    <b>Collect on delivery</b> <span class="fig font-bold">{figure(cod.amount)}</span>
    {#if cod.collected}<span class="block text-sm"
        >{said(cod.collected)} collected{Number(cod.collected.amount) && cod.method
          ? `, ${codMethods[cod.method].toLowerCase()}`
          : ''} <span class="text-mute">{cod.by}, {formatLocal(localAt(cod.at!, session.zone))}</span></span
      >{:else}<span class="text-marigold-word block text-sm">not collected yet</span>{/if}
  </p>
  {#if open}
    <form
      class="mt-1 grid max-w-md grid-cols-2 items-start gap-2"
      aria-label="Record what was collected"
      onsubmit={(e) => {
        e.preventDefault();
        void save({ collected, method: (method || null) as Schemas['CodRequest']['method'] });
      }}
    >
      <MoneyField
        label="Collected"
        bind:value={collected}
        currency={cod.amount.currency}
        problem={attempt.at('collected')}
      />
      <Choice
        label="Paid by"
        bind:value={method}
        problem={attempt.at('method')}
        options={[{ value: '', label: '—' }, ...options(codMethods)]}
      />
      <div class="col-span-2 flex gap-2">
        <Button look="main" small type="submit" busy={attempt.busy}>Record</Button>
        <Button small look="quiet" onclick={() => (open = false)}>Cancel</Button>
      </div>
    </form>
  {:else if may}
    <p class="mt-1 flex gap-2">
      {#if !cod.collected}<Button small onclick={() => (open = true)}>Record what was collected</Button>
      {:else}<Button small look="quiet" busy={attempt.busy} onclick={() => save({ collected: null, method: null })}
          >Record it again</Button
        >{/if}
    </p>
    {#if attempt.refused}<p class="text-ember-word text-sm" role="alert">{attempt.refused.message}</p>{/if}
  {/if}
</div>
