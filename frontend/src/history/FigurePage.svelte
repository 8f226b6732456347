<script lang="ts">
  import FigureOverTime from './FigureOverTime.svelte';

  interface Props {
    params: { id: string };
  }
  let { params }: Props = $props();
</script>

<!-- Another query is another page. -->
{#key params.id}<FigureOverTime id={Number(params.id)} />{/key}
