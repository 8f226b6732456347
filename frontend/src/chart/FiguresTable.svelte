<!-- The figures of a chart as a table. -->
<script lang="ts">
  import type { ChartMade } from '../api/client';
  import { counted, numberText } from '../domain/words/format';
  import { placeText, valueText } from './words';

  interface Props {
    made: ChartMade;
  }
  let { made }: Props = $props();
  const MOST = 400;
  const rows = $derived(
    made.panels.flatMap((panel, p) =>
      panel.series.flatMap((series, s) =>
        series.y.flatMap((y, at) =>
          y === null
            ? []
            : [
                {
                  panel: panel.name,
                  series: [series.then ? 'then' : '', series.name].filter(Boolean).join(', '),
                  place: placeText(made, p, s, at),
                  y,
                  axis: made.y[series.axis],
                  size: series.size?.[at],
                },
              ],
        ),
      ),
    ),
  );
  const panels = $derived(made.panels.length > 1);
  const names = $derived(rows.some((one) => one.series));
  const sized = $derived(rows.some((one) => one.size !== undefined));
</script>

<table class="listing my-2">
  <thead>
    <tr>
      {#if panels}<th>Chart</th>{/if}
      {#if names}<th>Series</th>{/if}
      <th>{made.x.name || 'Of'}</th>
      <th class="right">{made.y[0]?.name || 'Value'}</th>
      {#if sized}<th class="right">Size</th>{/if}
    </tr>
  </thead>
  <tbody>
    {#each rows.slice(0, MOST) as row, at (at)}
      <tr>
        {#if panels}<td>{row.panel}</td>{/if}
        {#if names}<td>{row.series}</td>{/if}
        <td>{row.place}</td>
        <td class="right">{row.axis ? valueText(row.y, row.axis) : numberText(row.y)}</td>
        {#if sized}<td class="right">{row.size === undefined ? '' : numberText(row.size)}</td>{/if}
      </tr>
    {/each}
  </tbody>
</table>
{#if rows.length > MOST}<p class="muted text-[13px]">{counted(rows.length - MOST, 'more figure')}.</p>{/if}
