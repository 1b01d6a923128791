<script lang="ts">
  /** Downloads what is shown. */
  let { path, query = {} }: { path: string; query?: Record<string, string | number | undefined> } = $props();
  const href = (format: string) => {
    const p = new URLSearchParams();
    for (const [k, v] of Object.entries({ ...query, format })) if (v !== undefined) p.set(k, String(v));
    return `${path}?${p}`;
  };
</script>

<span class="text-sm whitespace-nowrap"
  ><a class="text-lark hover:underline" href={href('csv')} download>CSV</a> ·
  <a class="text-lark hover:underline" href={href('xlsx')} download>XLSX</a></span
>
