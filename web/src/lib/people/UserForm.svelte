<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { onChange } from '$lib/state/change.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import ViewLimits from './ViewLimits.svelte';

  interface Props {
    /** Null invites a new user. */
    id: number | null;
    oninvited: (id: number) => void;
  }
  let { id, oninvited }: Props = $props();
  const noLimits: Schemas['ViewLimitsRequest'] = {
    customers: null,
    offices: null,
    driverGroups: null,
    daysAhead: null,
  };
  const empty = () => ({ name: '', login: '', email: '', role: '', driver: '', office: '', limits: { ...noLimits } });
  let user = $state<Schemas['UserRow'] | null>(null);
  let roles = $state<Schemas['RoleRow'][]>([]);
  let drivers = $state<{ value: string; label: string }[]>([]);
  let offices = $state<Schemas['UnitRow'][]>([]);
  let draft = $state(empty());
  /** The link just created, and its user: shown until another user is opened. */
  let issued = $state<{ id: number; link: string } | null>(null);
  const link = $derived(issued && issued.id === id ? issued.link : '');
  const attempt = new Attempt();
  /** Anything typed before the user is loaded would be overwritten. */
  const loaded = $derived(roles.length > 0 && (user?.id ?? null) === id);
  const kept = new Draft(
    () => `user ${id ?? 'new'}`,
    () => ({ draft }),
    (v) => ({ draft } = v),
    () => loaded,
  );
  const role = $derived(roles.find((r) => String(r.id) === draft.role));
  const self = $derived(user?.id === session.current?.userId);

  async function load() {
    try {
      const [all, view, fleet, units] = await Promise.all([
        take(api.GET('/api/users')),
        take(api.GET('/api/roles')),
        session.may('fleet.see') ? take(api.GET('/api/fleet')) : null,
        session.may('loads.see') ? take(api.GET('/api/offices')) : [],
      ]);
      offices = units;
      roles = view.roles;
      const taken = new Set(all.filter((u) => u.active).map((u) => u.driverId));
      drivers = (fleet?.drivers ?? [])
        .filter((d) => d.active && !taken.has(d.id))
        .map((d) => ({ value: String(d.id), label: d.name }));
      user = all.find((u) => u.id === id) ?? null;
      if (user)
        draft = {
          ...draft,
          name: user.name,
          login: user.login,
          email: user.email ?? '',
          role: String(user.roleId),
          office: String(user.officeId ?? ''),
          limits: {
            customers: user.limits.customers ?? null,
            offices: user.limits.offices ?? null,
            driverGroups: user.limits.driverGroups ?? null,
            daysAhead: user.limits.daysAhead ?? null,
          },
        };
    } catch (e) {
      showError(e);
    }
  }
  onChange(
    () => id,
    () => {
      draft = empty();
      user = null;
      attempt.refused = null;
      void load();
    },
  );
  const save = () =>
    attempt.run(async () => {
      const roleId = Number(draft.role) || null;
      if (user) {
        await take(
          api.PUT('/api/users/{id}', {
            params: { path: { id: user.id } },
            body: {
              name: draft.name,
              email: draft.email,
              roleId,
              officeId: Number(draft.office) || null,
              limits: role?.standard === 'owner' ? null : draft.limits,
            },
          }),
        );
        kept.done();
        showDone(`${draft.name} saved.`);
        await load();
      } else {
        const made = await take(
          api.POST('/api/users', {
            body: {
              name: draft.name,
              login: draft.login,
              email: draft.email,
              roleId,
              driverId: Number(draft.driver) || null,
              officeId: Number(draft.office) || null,
              limits: role?.standard === 'owner' ? null : draft.limits,
            },
          }),
        );
        kept.done();
        showDone(session.current?.emailLeaves ? `Invitation sent to ${draft.email}.` : `${draft.name} was invited.`);
        issued = { id: made.user.id, link: made.link ?? '' };
        oninvited(made.user.id);
      }
    });
  type Act = 'deactivate' | 'reactivate' | 'link' | 'sign-out' | 'remove-second-factor';
  const act = (what: Act, done: string) =>
    attempt.run(async () => {
      const path = { params: { path: { id: user!.id } } };
      const answer = await take(api.POST(`/api/users/{id}/${what}` as '/api/users/{id}/link', path));
      issued = { id: answer.user.id, link: answer.link ?? '' };
      showDone(done);
      await load();
    });
</script>

<div class="px-5 pt-4 pb-4">
  <h2 class="mb-3 pr-8 text-lg font-bold">{id ? (user?.name ?? '') : 'Invite a user'}</h2>
  {#if !loaded}<p class="text-mute" role="status">Loading …</p>
  {:else}
    <form
      class="flex flex-col gap-3"
      onsubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <DraftNotice draft={kept} />
      <TextField label="Name" bind:value={draft.name} required problem={attempt.at('name')} />
      {#if id}<p class="text-sm"><span class="text-mute">Username</span> <b>{user?.login}</b></p>
      {:else}<TextField
          label="Username"
          bind:value={draft.login}
          required
          autocapitalize="none"
          problem={attempt.at('login')}
        />{/if}
      <TextField label="Email" type="email" bind:value={draft.email} required problem={attempt.at('email')} />
      <Choice
        label="Role"
        bind:value={draft.role}
        required
        options={[
          { value: '', label: 'Choose a role' },
          ...roles.map((r) => ({
            value: String(r.id),
            label: r.name,
            disabled: !!user && (r.standard === 'driver') !== !!user.driverId,
          })),
        ]}
        problem={attempt.at('roleId')}
      />
      {#if !id && role?.standard === 'driver'}
        <Choice
          label="Driver"
          bind:value={draft.driver}
          required
          options={[{ value: '', label: 'Choose a driver' }, ...drivers]}
          problem={attempt.at('driverId')}
        />
      {/if}
      {#if offices.length && role?.standard !== 'driver'}
        <Choice
          label="Office"
          bind:value={draft.office}
          options={[{ value: '', label: '—' }, ...offices.map((o) => ({ value: String(o.id), label: o.name }))]}
          problem={attempt.at('officeId')}
        />
      {/if}
      {#if role && role.standard !== 'owner'}
        <ViewLimits bind:limits={draft.limits} {offices} driver={role.standard === 'driver'} {attempt} />
      {/if}
      {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">{attempt.refused.general}</p>{/if}
      <div><Button look="main" type="submit" busy={attempt.busy}>{id ? 'Save' : 'Send invitation'}</Button></div>
    </form>
  {/if}
</div>
{#if link}
  <Part title="Link">
    <p class="text-sm" role="status">
      {session.current?.emailLeaves
        ? 'It was emailed. If the email does not arrive, give them this link; it works once and is not shown again:'
        : 'Email is not configured yet, so it waits. Give them this link; it works once and is not shown again:'}
      <b class="block break-all select-all">{link}</b>
    </p>
  </Part>
{/if}
{#if user}
  <Part title="Sign-in">
    <div class="flex flex-wrap gap-2">
      {#if user.active}
        <Button
          small
          onclick={() =>
            act(
              'link',
              !session.current?.emailLeaves
                ? 'A new link was made.'
                : user!.invited
                  ? 'Invitation sent again.'
                  : 'Password reset sent.',
            )}>{user.invited ? 'Send invitation again' : 'Send password reset'}</Button
        >
        {#if !self}
          {#if !user.invited}<Button small onclick={() => act('sign-out', `${user!.name} was signed out everywhere.`)}
              >Sign out everywhere</Button
            >{/if}
          {#if user.secondFactor}<Button small onclick={() => act('remove-second-factor', 'Second factor removed.')}
              >Remove second factor</Button
            >{/if}
          <Button small onclick={() => act('deactivate', `${user!.name} was deactivated.`)}>Deactivate</Button>
        {/if}
      {:else}
        <Button small onclick={() => act('reactivate', `${user!.name} was reactivated.`)}>Reactivate</Button>
      {/if}
    </div>
  </Part>
{/if}
