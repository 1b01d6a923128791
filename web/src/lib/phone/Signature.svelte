<script lang="ts">
  import { api, Refused, take } from '$lib/api/client';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** The receiver signs with a finger; the signature goes on the BOL, which then is the POD. */
  let {
    loadId,
    name = $bindable(''),
    ondone,
  }: { loadId: number; name?: string; ondone: () => Promise<void> } = $props();
  let canvas: HTMLCanvasElement;
  let drawn = $state(false);
  let busy = $state(false);
  let refused = $state<Refused | null>(null);
  let last: { x: number; y: number } | null = null;

  const at = (e: PointerEvent) => {
    const box = canvas.getBoundingClientRect();
    return {
      x: ((e.clientX - box.left) / box.width) * canvas.width,
      y: ((e.clientY - box.top) / box.height) * canvas.height,
    };
  };
  function draw(e: PointerEvent) {
    if (!last) return;
    const ink = canvas.getContext('2d')!;
    const here = at(e);
    ink.strokeStyle = '#16233b';
    ink.lineWidth = 4;
    ink.lineCap = 'round';
    ink.beginPath();
    ink.moveTo(last.x, last.y);
    ink.lineTo(here.x, here.y);
    ink.stroke();
    last = here;
    drawn = true;
  }
  function clear() {
    canvas.getContext('2d')!.clearRect(0, 0, canvas.width, canvas.height);
    drawn = false;
  }
  async function sign() {
    busy = true;
    refused = null;
    try {
      const picture = canvas.toDataURL('image/png');
      await take(api.POST('/api/mine/loads/{id}/sign', { params: { path: { id: loadId } }, body: { name, picture } }));
      showDone(`Signed by ${name}. POD received.`);
      clear();
      await ondone();
    } catch (e) {
      if (e instanceof Refused) refused = e;
    } finally {
      busy = false;
    }
  }
</script>

<div class="border-line rounded-lg border p-3" role="group" aria-label="Receiver signature">
  <TextField label="Receiver name" bind:value={name} maxlength={80} problem={refused?.at('name')} />
  <p class="text-mute mt-2 text-sm" id="sign-help">Sign in the box with your finger</p>
  <canvas
    bind:this={canvas}
    width="700"
    height="220"
    class="border-line mt-1 h-28 w-full touch-none rounded border-2 border-dashed bg-white"
    aria-label="Box for the signature"
    aria-describedby="sign-help"
    onpointerdown={(e) => {
      canvas.setPointerCapture(e.pointerId);
      last = at(e);
      draw(e);
    }}
    onpointermove={draw}
    onpointerup={() => (last = null)}
    onpointercancel={() => (last = null)}
  ></canvas>
  {#if refused && !refused.at('name')}<p class="text-ember-word mt-1 text-sm" role="alert">{refused.message}</p>{/if}
  <div class="mt-2 flex gap-2">
    <Button class="h-14! flex-1 text-lg" look="main" {busy} disabled={!drawn || !name.trim()} onclick={sign}
      >{name.trim() ? `Signed by ${name.trim()}` : 'Sign the BOL'}</Button
    >
    <Button class="h-14!" look="quiet" disabled={!drawn} onclick={clear}>Clear</Button>
  </div>
</div>
