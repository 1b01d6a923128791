<script lang="ts">
  import { page } from '$app/state';
  import { api, Refused, sendFile, take, type Schemas } from '$lib/api/client';
  import { documentLabels } from '$lib/loads/labels';
  import Notice from '$ui/Notice.svelte';

  /** A missing document is uploaded here, from a phone or a desk. */
  const token = $derived(page.params.token ?? '');
  let ask = $state<Schemas['UploadLinkView'] | null>(null);
  let problem = $state('');
  let refused = $state('');
  let thanks = $state<string[]>([]);
  let busy = $state('');
  const load = () =>
    take(api.GET('/api/upload/{token}', { params: { path: { token } } }))
      .then((a) => (ask = a))
      .catch((e) => (problem = e instanceof Refused ? e.message : 'This link could not be loaded. Please call us.'));
  $effect(() => void load());
  async function send(kind: string, files: FileList | null) {
    refused = '';
    for (const file of files ?? []) {
      busy = kind;
      try {
        const path = `/api/upload/${token}?kind=${kind}&name=${encodeURIComponent(file.name)}`;
        thanks.push((await sendFile<Schemas['DocumentRequestResult']>(path, file)).summary);
      } catch (e) {
        refused = e instanceof Refused ? e.message : 'The upload failed: try again.';
      }
    }
    busy = '';
    await load();
  }
</script>

<svelte:head><title>Documents for a load</title></svelte:head>
<main class="mx-auto max-w-xl p-6">
  {#if problem}<h1 class="mb-2 text-xl font-bold">Not found</h1>
    <p role="alert">{problem}</p>
  {:else if ask}
    <p class="text-mute text-sm">{ask.business}, {ask.phone}</p>
    <h1 class="mb-1 text-xl font-bold">Load {ask.load}{ask.who ? ` for ${ask.who}` : ''}</h1>
    <p class="text-mute mb-5">{ask.from} to {ask.to}</p>
    {#each thanks as said, n (n)}<p class="text-moss-word mb-2 font-bold" role="status">{said}</p>{/each}
    {#if refused}<div class="mb-3"><Notice>{refused}</Notice></div>{/if}
    {#if ask.closed || ask.wanted.length === 0}
      <p>All documents are in. Nothing more is needed.</p>
    {:else}
      <p class="mb-3">We still need:</p>
      {#each ask.wanted as kind (kind)}
        <label
          class="border-lark text-lark focus-within:outline-lark mb-3 block cursor-pointer rounded-lg border-2 border-dashed p-5 text-center text-lg font-bold focus-within:outline-2"
          >{busy === kind ? 'Sending …' : `${documentLabels[kind]}: photo or PDF`}<input
            type="file"
            class="sr-only"
            accept="application/pdf,image/jpeg,image/png"
            onchange={(e) => {
              void send(kind, e.currentTarget.files);
              e.currentTarget.value = '';
            }}
          /></label
        >
      {/each}
    {/if}
  {:else}<p class="text-mute" role="status">Loading …</p>{/if}
</main>
