<script lang="ts">
  import BodyStyleList from './BodyStyleList.svelte';
  import ClassRatesList from './ClassRatesList.svelte';
  import ProductList from './ProductList.svelte';

  /** The company's lists of freight: LTL rates, tanker products, body styles. */
</script>

<ClassRatesList />
<ProductList />
<BodyStyleList />
