<!-- One of several things that were chosen: a press takes it out again. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';

  interface Props {
    text: string;
    onremove: () => void;
  }
  let { text, onremove }: Props = $props();
</script>

<button type="button" class="one" title="Take {text} out" onclick={onremove}
  ><span>{text}</span><X size={12} /></button
>

<style>
  .one {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    max-width: 100%;
    height: 27px;
    padding: 0 7px;
    border: 1px solid var(--damson-edge);
    border-radius: 6px;
    background: var(--damson-wash);
    color: var(--damson);
    font-size: 13px;
    cursor: pointer;
  }
  .one span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
