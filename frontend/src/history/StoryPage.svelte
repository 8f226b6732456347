<script lang="ts">
  import { router } from 'svelte-spa-router';
  import RowStory from './RowStory.svelte';

  interface Props {
    params: { id: string };
  }
  let { params }: Props = $props();
</script>

<!-- Another row is another page. -->
{#key `${params.id}?${router.querystring}`}<RowStory id={Number(params.id)} />{/key}
