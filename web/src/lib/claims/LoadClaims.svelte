<script lang="ts">
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import Button from '$ui/Button.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import { claimKinds, claimState, kindOptions } from './labels';

  /** The claims of a load, and opening one. */
  interface Props {
    load: Schemas['LoadRow'];
    legs: Schemas['LegRow'][];
    onchanged: () => Promise<void>;
  }
  let { load, legs, onchanged }: Props = $props();
  const carriers = $derived(legs.filter((l) => l.carrierId));
  let leg = $state('');
  let claims = $state<Schemas['ClaimRow'][]>([]);
  let opening = $state(false);
  let kind = $state('damage');
  let description = $state('');
  const attempt = new Attempt();
  const read = async () => {
    claims = await take(api.GET('/api/loads/{id}/claims', { params: { path: { id: load.id } } })).catch((e) => {
      showError(e);
      return [];
    });
  };
  const id = $derived(load.id);
  onChange(
    () => id,
    () => {
      void read();
      return live.follow(read, ['claims']);
    },
  );
  const mayOpen = $derived(session.may('loads.roll') && ['delivered', 'billed', 'closed'].includes(load.state));
  const open = () =>
    attempt.run(async () => {
      const claim = await take(
        api.POST('/api/loads/{id}/claims', {
          params: { path: { id } },
          body: {
            kind: kind as Schemas['ClaimKind'],
            description: description || null,
            legId: Number(leg) || undefined,
          },
          headers: ifMatch(load.version),
        }),
      );
      showDone(`Claim ${claim.number} opened.`);
      opening = false;
      description = '';
      await onchanged();
      await read();
    });
</script>

{#if claims.length || mayOpen}
  <Part title="Claims">
    {#snippet aside()}{#if mayOpen}<Button small look="quiet" onclick={() => (opening = !opening)}
          ><Plus size={14} />Claim</Button
        >{/if}{/snippet}
    {#each claims as c (c.id)}
      <p class="flex justify-between gap-2 text-sm">
        <span class="min-w-0 truncate"
          >{#if session.may('billing.see')}<a
              class="text-lark font-bold hover:underline"
              href="/bill?tab=claims&claim={c.id}">{c.number}</a
            >{:else}<b>{c.number}</b>{/if}
          {claimKinds[c.kind]}, {claimState(c)}: <span class="text-mute">{c.description}</span></span
        >
        <span class="fig shrink-0">{c.claimed ? figure(c.claimed) : ''}</span>
      </p>
    {:else}{#if !opening}<p class="text-mute text-sm">None.</p>{/if}{/each}
    {#if opening}
      <InnerForm {attempt} action="Open claim" onact={open} oncancel={() => (opening = false)}>
        <Choice label="What happened" bind:value={kind} options={kindOptions} problem={attempt.at('kind')} />
        {#if legs.length > 1 && carriers.length}<Choice
            label="Happened with"
            bind:value={leg}
            options={[
              { value: '', label: legs.at(-1)?.driver ?? legs.at(-1)?.carrier ?? '' },
              ...carriers
                .filter((l) => l !== legs.at(-1))
                .map((l) => ({ value: String(l.id), label: l.carrier ?? '' })),
            ]}
            problem={attempt.at('legId')}
          />{/if}
        <TextField
          label="Description"
          required
          bind:value={description}
          maxlength={1000}
          problem={attempt.at('description')}
        />
      </InnerForm>
    {/if}
  </Part>
{/if}
