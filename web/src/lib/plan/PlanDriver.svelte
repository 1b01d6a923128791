<script lang="ts">
  import { api, take } from '../api/client';
  import { Attempt } from '../state/attempt.svelte';
  import { onChange } from '../state/change.svelte';
  import { showDone } from '../state/messages.svelte';
  import { session } from '../state/session.svelte';
  import { formatLocal, instantOf, localAt, type Local } from '../time/when';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import type { Driver } from './plan';
  import PlanTrips from './PlanTrips.svelte';

  /** A driver's coming days: trips, time off, by when they are to be home. */
  let { driver, may, onchanged }: { driver: Driver; may: boolean; onchanged: () => Promise<void> } = $props();
  let from = $state<Local | null>(null);
  let until = $state<Local | null>(null);
  let note = $state('');
  let homeBy = $state<Local | null>(null);
  const off = new Attempt();
  const home = new Attempt();
  onChange(
    () => driver.id,
    () => {
      from = until = null;
      note = '';
      homeBy = driver.homeBy ? localAt(driver.homeBy, session.zone) : null;
      off.refused = home.refused = null;
    },
  );
  const when = (at: string) => formatLocal(localAt(at, session.zone));
  const at = (local: Local | null) => (local ? instantOf(local, session.zone) : null);
  const path = $derived({ path: { id: driver.id } });
  const addOff = () =>
    off.run(async () => {
      const added = await take(
        api.POST('/api/drivers/{id}/time-off', {
          params: path,
          body: { from: at(from), until: at(until), note: note || null },
        }),
      );
      from = until = null;
      note = '';
      showDone(`${driver.name} is off from ${when(added.from)}.`);
      await onchanged();
    });
  const removeOff = (id: number) =>
    off.run(async () => {
      const removed = await take(
        api.POST('/api/drivers/{id}/time-off/{off}/remove', { params: { path: { id: driver.id, off: id } } }),
      );
      showDone(`Time off of ${driver.name} removed.`, () =>
        take(
          api.POST('/api/drivers/{id}/time-off', {
            params: path,
            body: { from: removed.from, until: removed.until, note: removed.note },
          }),
        ),
      );
      await onchanged();
    });
  const setHome = () =>
    home.run(async () => {
      const was = driver.homeBy;
      await take(api.PUT('/api/drivers/{id}/home-by', { params: path, body: { at: at(homeBy) } }));
      showDone(homeBy ? `${driver.name} is to be home by ${formatLocal(homeBy)}.` : 'Home-by time removed.', () =>
        take(api.PUT('/api/drivers/{id}/home-by', { params: path, body: { at: was } })),
      );
      await onchanged();
    });
</script>

<div class="px-5 pt-4 pb-3">
  <h2 class="pr-8 text-lg font-bold">{driver.name}</h2>
  <p class="text-mute text-sm">
    {[driver.group, driver.homeTown ? `lives in ${driver.homeTown}` : null].filter(Boolean).join(' · ')}
    {#if driver.phone}· <a class="text-lark underline" href="tel:{driver.phone}">{driver.phone}</a>{/if}
  </p>
  {#if driver.homeAt}<p class="text-sm">
      Home {when(driver.homeAt)}, {driver.homeMiles} empty mi from {driver.freeTown}{driver.homeBy
        ? `; agreed by ${when(driver.homeBy)}`
        : ''}
    </p>{/if}
</div>
{#if driver.warnings.length > 0}
  <div class="mx-5 mb-2">
    <Notice title="Does not work"
      >{#each driver.warnings as said (said)}<p>{said}</p>{/each}</Notice
    >
  </div>
{/if}
<PlanTrips trips={driver.trips} full />
<Part title="Time off">
  {#each driver.off as o (o.id)}
    <p class="flex items-center justify-between gap-2 text-sm">
      <span>{when(o.from)} to {when(o.until)}{o.note ? `, ${o.note}` : ''}</span>
      {#if may}<Button small look="quiet" busy={off.busy} onclick={() => removeOff(o.id)}>Remove</Button>{/if}
    </p>
  {:else}<p class="text-mute text-sm">None entered.</p>{/each}
  {#if may}
    <form
      class="mt-2 grid grid-cols-2 gap-2"
      onsubmit={(e) => {
        e.preventDefault();
        void addOff();
      }}
    >
      <WhenField label="Off from" bind:value={from} problem={off.at('from')} />
      <WhenField label="Back" bind:value={until} like={from} problem={off.at('until')} />
      <TextField label="Note" bind:value={note} problem={off.at('note')} />
      <div class="flex items-end"><Button small type="submit" busy={off.busy}>Add time off</Button></div>
    </form>
  {/if}
</Part>
{#if may}
  <Part title="Home by">
    <form
      class="grid grid-cols-2 items-end gap-2"
      onsubmit={(e) => {
        e.preventDefault();
        void setHome();
      }}
    >
      <WhenField label="Home by" bind:value={homeBy} problem={home.at('at')} />
      <div>
        <Button small type="submit" busy={home.busy} disabled={!homeBy && !driver.homeBy}
          >{homeBy || !driver.homeBy ? 'Set home-by time' : 'Remove home-by time'}</Button
        >
      </div>
    </form>
  </Part>
{/if}
