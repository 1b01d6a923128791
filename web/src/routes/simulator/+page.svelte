<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { live } from '$lib/state/live.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal, formatShort } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Select from '$ui/Select.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';
  import TextField from '$ui/TextField.svelte';

  let emails = $state<Schemas['MailView'][] | null>(null);
  let open = $state<string | null>(null);
  let writing = $state(false);
  let from = $state('');
  let subject = $state('');
  let text = $state('');
  let file = $state<File | null>(null);
  const attempt = new Attempt();

  async function load() {
    try {
      emails = await take(api.GET('/api/outside/emails'));
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void load();
    return live.follow(load, ['mail']);
  });
  const mail = $derived(emails?.find((m) => m.name === open) ?? null);
  const link = $derived(/https?:\/\/\S+?(\/accept\/[0-9a-f]+)/.exec(mail?.text ?? '')?.[1]);

  let standIns = $state.raw<Schemas['StandIn'][]>([]);
  const standInLabels: Record<string, [string, string]> = {
    carriers: ['Carriers accept', 'They accept the rate confirmation through its link a few minutes after the email.'],
    receivers: ['Receivers sign', 'They unload our trucks after arrival and sign on the driver’s phone.'],
    trucks: ['Trucks drive', 'Our rolling trucks move and report their positions like a tracking device.'],
  };
  $effect(() => {
    take(api.GET('/api/outside/stand-ins'))
      .then((all) => (standIns = all))
      .catch(showError);
  });
  async function set(s: Schemas['StandIn'], works: boolean, speed: number) {
    try {
      standIns = await take(
        api.PUT('/api/outside/stand-ins/{name}', { params: { path: { name: s.name } }, body: { works, speed } }),
      );
      showDone(works ? `${standInLabels[s.name][0]}at ${speed}×.` : `${standInLabels[s.name][0]}: off.`);
    } catch (e) {
      showError(e);
    }
  }
  async function base64(f: File): Promise<string> {
    const bytes = new Uint8Array(await f.arrayBuffer());
    let out = '';
    for (let i = 0; i < bytes.length; i += 0x8000) out += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
    return btoa(out);
  }
  async function send() {
    await attempt.run(async () => {
      await take(
        api.POST('/api/outside/emails', {
          body: { from, subject, text, file: file ? { name: file.name, base64: await base64(file) } : null },
        }),
      );
      showDone('Sent. It arrives in a second or two.');
      writing = false;
      subject = text = '';
      file = null;
      await load();
    });
  }
</script>

<svelte:head><title>Simulator · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col">
    <Head title="Simulator">
      <Button
        onclick={() => {
          writing = true;
          open = null;
        }}>Send us an email</Button
      >
    </Head>
    <p class="text-mute max-w-3xl px-5 pt-1 text-sm">
      A simulated outside world: emails we send to customers and carriers arrive here, and emails written here come in
      as if they had sent them.
    </p>
    {#if standIns.length}
      <ul class="grid max-w-5xl grid-cols-3 gap-x-6 px-5 pt-3">
        {#each standIns as s (s.name)}
          <li class="border-line border-y py-2">
            <div class="flex items-center justify-between gap-2">
              <label class="flex items-center gap-2 font-bold"
                ><input
                  type="checkbox"
                  checked={s.works}
                  onchange={(e) => set(s, e.currentTarget.checked, s.speed)}
                />{standInLabels[s.name][0]}</label
              >
              <span class="text-mute flex items-center gap-1 text-sm"
                >at <Select
                  class="h-7"
                  label="Speed of {standInLabels[s.name][0]}"
                  value={String(s.speed)}
                  onchange={(v: string) => set(s, s.works, Number(v))}
                  options={[...new Set([1, 5, 20, 60, 200, 600, s.speed])]
                    .sort((a, b) => a - b)
                    .map((n) => ({ value: String(n), label: `${n}×` }))}
                /></span
              >
            </div>
            <p class="text-mute text-sm">{standInLabels[s.name][1]}</p>
          </li>
        {/each}
      </ul>
    {/if}
    <div class="min-h-0 flex-1 overflow-y-auto pt-2">
      <Slate
        label="Emails"
        groups={[{ title: '', rows: emails ?? [] }]}
        key={(m) => m.name}
        {open}
        onopen={(m) => {
          open = m.name;
          writing = false;
        }}
        loading={emails === null}
        empty="No email yet. Rate confirmations and invoices arrive here ten seconds after they are sent."
      >
        {#snippet row(m)}
          <span class="flex h-11 items-center gap-3 pr-4 pl-5">
            <span class="w-20 shrink-0 text-sm {m.toUs ? 'text-lark font-bold' : 'text-mute'}"
              >{m.toUs ? 'to us' : 'from us'}</span
            >
            <span class="min-w-0 flex-1"
              ><span class="block truncate leading-5 font-bold">{m.subject}</span><span
                class="text-mute block truncate text-sm leading-4">{m.toUs ? m.from : m.to}</span
              ></span
            >
            <span class="text-mute w-28 shrink-0 text-right text-sm"
              >{m.files.length ? `${m.files.length} ${m.files.length === 1 ? 'file' : 'files'}` : ''}</span
            >
            <span class="fig text-mute w-32 shrink-0 text-right text-sm"
              >{formatShort(localAt(m.at, session.zone))}</span
            >
          </span>
        {/snippet}
      </Slate>
    </div>
  </section>
  {#if writing}
    <Sheet label="new email" onclose={() => (writing = false)}>
      <form
        class="flex flex-col gap-3 p-5"
        onsubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        <h2 class="pr-8 text-lg font-bold">Send us an email as someone else</h2>
        <TextField
          label="From"
          required
          bind:value={from}
          placeholder="dispatch@twoforks.example"
          problem={attempt.at('from')}
        />
        <TextField
          label="Subject"
          required
          bind:value={subject}
          hint="Include a load number to suggest the load for attachments"
          problem={attempt.at('subject')}
        />
        <TextField label="Text" bind:value={text} lines={8} problem={attempt.at('text')} />
        <label class="text-lark text-sm font-bold"
          >{file ? file.name : 'Attach a file'}<input
            class="text-mute mt-1 block text-sm font-normal"
            type="file"
            onchange={(e) => (file = e.currentTarget.files?.[0] ?? null)}
          /></label
        >
        {#if attempt.at('file') || attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">
            {attempt.refused?.message}
          </p>{/if}
        <div>
          <Button look="main" type="submit" busy={attempt.busy} disabled={!from || !subject}>Send</Button>
        </div>
      </form>
    </Sheet>
  {:else if mail}
    <Sheet label="email" onclose={() => (open = null)}>
      <div class="p-5">
        <h2 class="pr-8 text-lg font-bold">{mail.subject}</h2>
        <p class="text-mute text-sm">
          {mail.from} to {mail.to}, {formatLocal(localAt(mail.at, session.zone))}
        </p>
        <p class="mt-4 text-sm break-words whitespace-pre-wrap">{mail.text}</p>
        <ul class="mt-4 flex flex-col gap-1">
          {#each mail.files as f, i (i)}
            <li>
              <a
                class="text-lark font-bold hover:underline"
                href="/api/outside/emails/{mail.name}/files/{i}"
                target="_blank"
                rel="noopener">{f.name}</a
              > <span class="text-mute text-sm">{Math.ceil(f.size / 1024)} kB</span>
            </li>
          {/each}
        </ul>
        <p class="mt-4 flex gap-4 text-sm">
          {#if link}<a class="text-lark font-bold hover:underline" href={link} target="_blank" rel="noopener"
              >Open the link as the carrier</a
            >{/if}
          <a class="text-lark hover:underline" href="/api/outside/emails/{mail.name}/eml">Download EML</a>
        </p>
      </div>
    </Sheet>
  {/if}
</div>
