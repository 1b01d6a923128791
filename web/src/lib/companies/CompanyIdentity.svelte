<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, take } from '$lib/api/client';
  import CompanyFields, { type CompanyDraft } from '$lib/people/CompanyFields.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';

  /** Our own company's name, address, numbers and logo. */
  let draft = $state<CompanyDraft | null>(null);
  const attempt = new Attempt();
  $effect(() => {
    take(api.GET('/api/company'))
      .then(
        (c) =>
          (draft = {
            name: c.name ?? '',
            address: c.address ?? '',
            phone: c.phone ?? '',
            email: c.email ?? '',
            usdot: c.usdot ?? '',
            mcNumber: c.mcNumber ?? '',
            zone: c.zone ?? '',
            logo: c.logo ?? '',
          }),
      )
      .catch(showError);
  });
  const kept = new Draft(
    () => 'company',
    () => ({ draft }),
    (v) => ({ draft } = v),
    () => draft !== null,
  );
  const save = () =>
    attempt.run(async () => {
      await take(api.PUT('/api/company', { body: { ...draft!, logo: draft!.logo || null } }));
      await session.load();
      kept.done();
      showDone('Company saved.');
    });
</script>

{#if draft}
  <form
    class="border-line mx-5 mb-4 grid max-w-2xl grid-cols-2 gap-3 border-b pt-2 pb-4"
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <DraftNotice draft={kept} class="col-span-2" />
    <h2 class="col-span-2 font-bold">Company</h2>
    <CompanyFields bind:draft at={(f) => attempt.at(f)} />
    {#if attempt.refused?.general}
      <p class="text-ember-word col-span-2 text-sm" role="alert">{attempt.refused.general}</p>
    {/if}
    <div><Button look="main" type="submit" busy={attempt.busy}>Save company</Button></div>
  </form>
{/if}
