<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { showError } from '$lib/state/messages.svelte';
  import { live } from '$lib/state/live.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatShort, localAt } from '$lib/time/when';
  import Slate from '$ui/Slate.svelte';

  interface Props {
    open: number | null;
    onopen: (id: number) => void;
  }
  /** All users. */
  let { open, onopen }: Props = $props();
  let users = $state<Schemas['UserRow'][] | null>(null);
  const load = () =>
    take(api.GET('/api/users'))
      .then((u) => (users = u))
      .catch(showError);
  $effect(() => {
    void load();
    return live.follow(load, ['users']);
  });
  const groups = $derived([
    { title: 'Office', rows: (users ?? []).filter((u) => u.active && !u.driverId) },
    { title: 'Drivers', rows: (users ?? []).filter((u) => u.active && u.driverId) },
    { title: 'Deactivated', rows: (users ?? []).filter((u) => !u.active) },
  ]);
  const seen = (u: Schemas['UserRow']) =>
    u.invited
      ? 'invited'
      : u.lastSeenAt
        ? `seen ${formatShort(localAt(u.lastSeenAt, session.zone))}`
        : 'never signed in';
</script>

<Slate
  label="Users"
  {groups}
  key={(u) => u.id}
  {open}
  onopen={(u) => onopen(u.id)}
  loading={users === null}
  empty="No users."
  dense
>
  {#snippet row(u)}
    <span class="flex h-[30px] items-center gap-3 pr-4 pl-5">
      <span class="min-w-0 flex-1 truncate font-bold {u.active ? '' : 'text-mute line-through'}">{u.name}</span>
      <span class="text-mute w-20 shrink-0 truncate text-sm">{u.login}</span>
      <span class="w-28 shrink-0 truncate text-sm">{u.roleName}</span>
      <span class="text-mute w-40 shrink-0 truncate text-sm"
        >{[u.secondFactor && 'second factor', u.limits.isLimited && 'limited'].filter(Boolean).join(', ')}</span
      >
      <span class="fig w-40 shrink-0 truncate text-right text-sm {u.invited ? 'text-marigold-word' : 'text-mute'}"
        >{seen(u)}</span
      >
    </span>
  {/snippet}
</Slate>
