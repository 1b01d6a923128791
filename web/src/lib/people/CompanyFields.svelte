<script lang="ts" module>
  export interface CompanyDraft {
    name: string;
    address: string;
    phone: string;
    email: string;
    usdot: string;
    mcNumber: string;
    zone: string;
    /** A PNG, base64; empty for none. */
    logo: string;
  }
</script>

<script lang="ts">
  import { zones } from '$lib/time/zones';
  import { showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';

  interface Props {
    draft: CompanyDraft;
    at: (field: string) => string | undefined;
    /** The server's name of the field. */
    nameField?: string;
  }
  /** Our own company: what its documents and emails say. */
  let { draft = $bindable(), at, nameField = 'name' }: Props = $props();
  let file = $state<HTMLInputElement>();

  async function read(files: FileList | null) {
    const picked = files?.[0];
    if (!picked) return;
    try {
      const bytes = new Uint8Array(await picked.arrayBuffer());
      let text = '';
      for (const b of bytes) text += String.fromCharCode(b);
      draft.logo = btoa(text);
    } catch (e) {
      showError(e);
    }
  }
</script>

<TextField class="col-span-2" label="Company name" bind:value={draft.name} required problem={at(nameField)} />
<TextField class="col-span-2" label="Address" bind:value={draft.address} required problem={at('address')} />
<TextField label="Phone" type="tel" bind:value={draft.phone} required problem={at('phone')} />
<TextField
  label="Email for customers and carriers"
  type="email"
  bind:value={draft.email}
  required
  problem={at('email')}
/>
<TextField label="USDOT number" bind:value={draft.usdot} inputmode="numeric" problem={at('usdot')} />
<TextField label="MC number" bind:value={draft.mcNumber} problem={at('mcNumber')} />
<Choice class="col-span-2" label="Time zone" bind:value={draft.zone} options={zones} required problem={at('zone')} />
<div class="col-span-2 flex items-center gap-3">
  {#if draft.logo}
    <img
      class="border-line max-h-14 max-w-48 rounded border bg-white p-1"
      src="data:image/png;base64,{draft.logo}"
      alt="Company logo"
    />
  {/if}
  <Button small onclick={() => file?.click()}>{draft.logo ? 'Replace logo' : 'Add a logo (PNG)'}</Button>
  {#if draft.logo}<Button small look="quiet" onclick={() => (draft.logo = '')}>Remove logo</Button>{/if}
  <input
    bind:this={file}
    class="sr-only"
    type="file"
    accept="image/png"
    tabindex="-1"
    aria-label="Logo file"
    onchange={(e) => void read(e.currentTarget.files)}
  />
  {#if at('logo')}<p class="text-ember-word text-sm" role="alert">{at('logo')}</p>{/if}
</div>
