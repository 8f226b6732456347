<!-- What a lookup can do beside the usual: many values in one call, several records in one answer, answers that are
     kept, another method and a body. -->
<script lang="ts">
  import type { LookUp } from '../../api/client';
  import { readJson, writeJson } from '../../api/json';
  import { daysOf, type LookUpExtras } from './lookUpExtras';

  interface Props {
    extras: LookUpExtras;
    /** The names in the template. */
    names: string[];
    /** Places of the fields that were seen in an answer. */
    places: string[];
    onchange: (extras: LookUpExtras) => void;
  }
  let { extras, names, places, onchange }: Props = $props();
  const set = (change: Partial<LookUpExtras>): void => onchange({ ...extras, ...change });
  const batch = $derived(extras.batch);
  const setBatch = (change: Partial<NonNullable<LookUp['batch']>>): void => {
    if (batch) set({ batch: { ...batch, ...change } });
  };
  let typed = $state<string | null>(null);
  let broken = $state(false);
  const whole = (text: string): number | null =>
    text.trim() === '' ? null : Math.max(1, Math.round(Number(text)));

  function body(text: string): void {
    typed = text;
    try {
      set({ body: text.trim() ? ({ kind: 'json', value: readJson(text) } as never) : null });
      broken = false;
    } catch {
      broken = true;
    }
  }
</script>

<div class="space-y-2.5 text-[13px]">
  <label class="flex items-center gap-2">
    <input
      type="checkbox"
      name="lookup-batch"
      checked={!!batch}
      onchange={(event) =>
        set({
          batch: event.currentTarget.checked
            ? { of: null, most: 50, characters: null, records: '$[*]', match: '', place: null }
            : null,
        })}
    />
    Many values in one call
  </label>
  {#if batch}
    <div class="grid grid-cols-2 gap-2 pl-6">
      {#if names.length > 1}
        <label class="col-span-2"
          ><span class="label">The name that stands for many</span>
          <select
            class="field"
            value={batch.of ?? ''}
            onchange={(event) => setBatch({ of: event.currentTarget.value || null })}
          >
            <option value="">choose…</option>
            {#each names as name (name)}<option value={name}>{name}</option>{/each}
          </select></label
        >
      {/if}
      <label
        ><span class="label">Values a call, at most</span>
        <input
          class="field"
          type="number"
          min="1"
          name="lookup-most"
          value={batch.most}
          onchange={(event) => setBatch({ most: whole(event.currentTarget.value) ?? 50 })}
        /></label
      >
      <label
        ><span class="label">Characters of the address</span>
        <input
          class="field"
          type="number"
          min="100"
          name="lookup-characters"
          placeholder="8,000"
          value={batch.characters ?? ''}
          onchange={(event) => setBatch({ characters: whole(event.currentTarget.value) })}
        /></label
      >
      <label
        ><span class="label">Records in the answer</span>
        <input
          class="field mono"
          name="lookup-records"
          value={batch.records}
          onchange={(event) => setBatch({ records: event.currentTarget.value.trim() })}
        /></label
      >
      <label
        ><span class="label">Each says its value at</span>
        <input
          class="field mono"
          name="lookup-match"
          list="lookup-places"
          placeholder="$.code"
          value={batch.match}
          onchange={(event) => setBatch({ match: event.currentTarget.value.trim() })}
        /></label
      >
      <label class="col-span-2"
        ><span class="label">Place of the values in a JSON body, where they do not go into the address</span>
        <input
          class="field mono"
          name="lookup-place"
          placeholder="none"
          value={batch.place ?? ''}
          onchange={(event) => setBatch({ place: event.currentTarget.value.trim() || null })}
        /></label
      >
    </div>
  {:else}
    <label class="block"
      ><span class="label">Where an answer holds several records: their place</span>
      <input
        class="field mono"
        name="lookup-records"
        placeholder="the whole answer is one record"
        value={extras.records ?? ''}
        onchange={(event) => set({ records: event.currentTarget.value.trim() || null })}
      /></label
    >
  {/if}
  {#if batch || extras.records}
    <div class="grid grid-cols-2 gap-2">
      <label
        ><span class="label">Of several records</span>
        <select
          class="field"
          name="lookup-several"
          value={extras.where ? 'where' : extras.several}
          onchange={(event) => {
            const value = event.currentTarget.value;
            set(
              value === 'where'
                ? { several: 'first', where: { place: places[0] ?? '$.', value: '' } }
                : { several: value, where: null },
            );
          }}
        >
          <option value="first">the first</option>
          <option value="where">the one where</option>
          <option value="each">a row for each</option>
        </select></label
      >
      <label
        ><span class="label">A column with their number</span>
        <input
          class="field"
          name="lookup-count"
          placeholder="none"
          value={extras.count}
          onchange={(event) => set({ count: event.currentTarget.value.trim() })}
        /></label
      >
      {#if extras.where}
        {@const where = extras.where}
        <label
          ><span class="label">Field</span>
          <input
            class="field mono"
            list="lookup-places"
            value={where.place}
            onchange={(event) => set({ where: { ...where, place: event.currentTarget.value.trim() } })}
          /></label
        >
        <label
          ><span class="label">is</span>
          <input
            class="field"
            value={where.value}
            onchange={(event) => set({ where: { ...where, value: event.currentTarget.value } })}
          /></label
        >
      {/if}
    </div>
  {/if}
  <datalist id="lookup-places"
    >{#each places as place (place)}<option value={place}></option>{/each}</datalist
  >
  <label class="flex items-center gap-2">
    <input
      type="checkbox"
      name="lookup-kept"
      checked={!!extras.keep_for}
      onchange={(event) => set({ keep_for: event.currentTarget.checked ? 'P30D' : null })}
    />
    Ask only for new values; keep answers for
    <input
      class="field"
      style="width: 64px; height: 25px"
      type="number"
      min="1"
      name="lookup-days"
      aria-label="Days"
      disabled={!extras.keep_for}
      value={extras.keep_for ? (daysOf(extras.keep_for) ?? '') : ''}
      onchange={(event) => set({ keep_for: `P${whole(event.currentTarget.value) ?? 30}D` })}
    />
    days
  </label>
  <div class="grid grid-cols-[110px_1fr] gap-2">
    <label
      ><span class="label">Method</span>
      <select
        class="field"
        name="lookup-method"
        value={extras.method}
        onchange={(event) => set({ method: event.currentTarget.value as LookUp['method'] })}
      >
        {#each ['GET', 'POST', 'PUT', 'PATCH', 'HEAD', 'DELETE'] as method (method)}<option>{method}</option
          >{/each}
      </select></label
    >
    {#if extras.method !== 'GET' && extras.method !== 'HEAD'}
      <label
        ><span class="label">JSON body, with the row’s value in braces</span>
        <textarea
          class="field mono"
          rows="2"
          name="lookup-body"
          value={typed ?? (extras.body?.kind === 'json' ? writeJson(extras.body.value) : '')}
          oninput={(event) => body(event.currentTarget.value)}></textarea>
        {#if broken}<small style="color: var(--straw-ink)">This is not JSON yet.</small>{/if}</label
      >
    {/if}
  </div>
</div>
