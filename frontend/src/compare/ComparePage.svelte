<script lang="ts">
  import CompareDates from './CompareDates.svelte';

  interface Props {
    params: { id: string };
  }
  let { params }: Props = $props();
</script>

<!-- Another query is another page. -->
{#key params.id}<CompareDates id={Number(params.id)} />{/key}
