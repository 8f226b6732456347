<!-- The fields of a key. What is typed shows as dots, and no browser keeps it. -->
<script lang="ts">
  import { fieldWords } from '../domain/words/labels';

  interface Props {
    fields: string[];
    secret: Record<string, string>;
  }
  let { fields, secret = $bindable() }: Props = $props();
  const open = (field: string): boolean => field === 'user' || field === 'client_id';
  const words = (field: string): string => fieldWords(field).replace(/^./, (first) => first.toUpperCase());
</script>

<div class="grid gap-2.5" class:two={fields.length > 1}>
  {#each fields as field (field)}
    <label class="block">
      <span class="label">{words(field)}</span>
      <input
        class="field mono"
        type={open(field) ? 'text' : 'password'}
        name="secret-{field}"
        autocomplete={open(field) ? 'off' : 'new-password'}
        spellcheck="false"
        value={secret[field] ?? ''}
        oninput={(event) => (secret = { ...secret, [field]: event.currentTarget.value })}
        placeholder="paste the {fieldWords(field)}"
      />
    </label>
  {/each}
</div>

<style>
  .two {
    grid-template-columns: 1fr 1fr;
  }
</style>
