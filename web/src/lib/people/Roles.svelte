<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';
  import RightPicker from './RightPicker.svelte';

  /** Roles and what each allows. */
  let roles = $state<Schemas['RoleRow'][] | null>(null);
  let offered = $state<Schemas['RightInfo'][]>([]);
  /** The selected role; 0 for a new one. */
  let open = $state<number | null>(null);
  let name = $state('');
  let chosen = $state<string[]>([]);
  const attempt = new Attempt();
  const isOffered = (right: string) => offered.some((o) => o.name === right);
  const role = $derived(roles?.find((r) => r.id === open));
  const changed = $derived(
    open === 0 ||
      (!!role && (name !== role.name || [...chosen].sort().join() !== role.rights.filter(isOffered).sort().join())),
  );

  async function load(then?: number | null) {
    try {
      const view = await take(api.GET('/api/roles'));
      roles = view.roles;
      offered = view.offered;
      show(then === undefined ? (open ?? roles[0]?.id ?? null) : then);
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => void load());
  function show(id: number | null) {
    open = id;
    attempt.refused = null;
    const shown = roles?.find((r) => r.id === id);
    name = shown?.name ?? '';
    chosen = (shown?.rights ?? []).filter(isOffered);
  }
  const save = () =>
    attempt.run(async () => {
      const body = { name, rights: chosen };
      const kept = open
        ? await take(api.PUT('/api/roles/{id}', { params: { path: { id: open } }, body }))
        : await take(api.POST('/api/roles', { body }));
      showDone(`Role ${kept.name} saved.`);
      await load(kept.id);
    });
  const restore = () =>
    attempt.run(async () => {
      await take(api.PUT('/api/roles/{id}', { params: { path: { id: open! } }, body: { name, rights: null } }));
      showDone('Standard permissions restored.');
      await load(open);
    });
  const remove = () =>
    attempt.run(async () => {
      await take(api.POST('/api/roles/{id}/remove', { params: { path: { id: open! } } }));
      showDone(`Role ${name} removed.`);
      await load(null);
      show(roles?.[0]?.id ?? null);
    });
</script>

<div class="grid grid-cols-[15rem_1fr] gap-8 px-5">
  <nav aria-label="Roles">
    <ul>
      {#each roles ?? [] as r (r.id)}
        <li>
          <button
            type="button"
            class="border-line flex h-[30px] w-full items-center justify-between border-b px-1 text-left {r.id === open
              ? 'bg-lark-tint/80 font-bold'
              : 'hover:bg-faint'}"
            aria-current={r.id === open}
            onclick={() => show(r.id)}
            ><span class="truncate">{r.name}</span><span class="fig text-mute text-sm font-normal"
              >{r.users}<span class="sr-only"> users</span></span
            ></button
          >
        </li>
      {/each}
    </ul>
    <div class="mt-3"><Button small onclick={() => show(0)}>New role</Button></div>
  </nav>
  {#if role || open === 0}
    <form
      class="flex max-w-3xl flex-col gap-3 pb-8"
      onsubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      {#if role?.fixed}
        <h2 class="text-lg font-bold">{role.name}</h2>
        <p>
          {role.standard === 'driver'
            ? 'Drivers see their own trips and pay on their phone, and nothing else. This role cannot be changed.'
            : 'The owner may do everything. This role cannot be changed.'}
        </p>
      {:else}
        <TextField
          class="max-w-80"
          label="Name"
          bind:value={name}
          required
          maxlength={60}
          problem={attempt.at('name')}
        />
        <RightPicker {offered} bind:chosen problem={attempt.at('rights')} />
        {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">{attempt.refused.general}</p>{/if}
        <div class="flex gap-2">
          <Button look="main" type="submit" busy={attempt.busy} disabled={!changed}
            >{open === 0 ? 'Create role' : 'Save'}</Button
          >
          {#if role?.edited}<Button onclick={restore} busy={attempt.busy}>Restore standard permissions</Button>{/if}
          {#if role && !role.standard}<Button look="quiet" onclick={remove} busy={attempt.busy}>Remove role</Button
            >{/if}
        </div>
      {/if}
    </form>
  {/if}
</div>
