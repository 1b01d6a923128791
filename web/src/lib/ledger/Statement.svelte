<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Money, Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';

  /** A financial statement: parts with their lines and a total each, and what it comes to. */
  interface Props {
    parts: { title: string; lines: Schemas['BalanceSheetLine'][]; totalName: string; total: Money }[];
    /** The rows at the end. */
    foot: Snippet;
  }
  let { parts, foot }: Props = $props();
</script>

<table class="w-full max-w-2xl">
  {#each parts as part (part.title)}
    <thead>
      <tr><th class="pt-3 pb-1 text-left" colspan="3">{part.title}</th></tr>
    </thead>
    <tbody>
      {#each part.lines as line (line.name)}
        <tr class="border-line hover:bg-faint/60 h-[30px] border-b">
          <td class="fig w-16">{line.code ?? ''}</td>
          <td
            >{#if line.code}<a class="hover:underline" href="/ledger?tab=lines&account={line.code}">{line.name}</a
              >{:else}{line.name}{/if}</td
          >
          <td class="fig text-right">{figure(line.amount)}</td>
        </tr>
      {:else}<tr class="text-mute h-[30px]"><td></td><td>None</td><td></td></tr>{/each}
      <tr class="h-9 font-bold">
        <td></td><td>{part.totalName}</td><td class="fig text-right">{figure(part.total)}</td>
      </tr>
    </tbody>
  {/each}
  <tfoot>{@render foot()}</tfoot>
</table>
