<script lang="ts">
  import ReportSheet from './ReportSheet.svelte';

  interface Props {
    params: { id: string };
  }
  let { params }: Props = $props();
</script>

<!-- Another report is another page. -->
{#key params.id}<ReportSheet id={Number(params.id)} />{/key}
