/** How pages are turned, in words, and the fields that each way has. */
import type { Brief } from './api/client';
import { count } from './format';
import { durationWords } from './words';

export type Pages = Brief['pages'];
export type By = Pages['by'];
type Listing = Extract<Pages, { by: 'ids' }>['listing'];
export type ListingBy = NonNullable<Listing>['by'];

/** The ways, with what they are called where one is chosen. */
export const WAYS: [By, string][] = [
  ['none', 'One answer is all'],
  ['number', 'By page number'],
  ['offset', 'By the number of rows before'],
  ['cursor', 'By a mark in the answer'],
  ['next', 'By the next address in the answer'],
  ['link', 'By the Link header'],
  ['last row', 'By a value of the last row'],
  ['dates', 'A range of dates, piece by piece'],
  ['ids', 'A list of ids, then their details'],
];

export interface PagesField {
  name: string;
  label: string;
  kind?: 'number' | 'place' | 'text';
  placeholder?: string;
  required?: boolean;
  least?: number;
  choices?: [string, string][];
}

const AT: PagesField = {
  name: 'at',
  label: 'It goes into the',
  choices: [
    ['address', 'address'],
    ['header', 'headers'],
    ['body', 'body'],
  ],
};
const SIZE: PagesField[] = [
  { name: 'size_parameter', label: 'Parameter with the size', kind: 'place', placeholder: 'none' },
  {
    name: 'size',
    label: 'Rows a page to ask for',
    kind: 'number',
    least: 1,
    placeholder: 'as it comes',
  },
];
const MORE: PagesField = {
  name: 'more',
  label: 'Place that says whether there is more',
  kind: 'place',
  placeholder: '$.has_more',
};
const parameter = (label: string, placeholder: string): PagesField => ({
  name: 'parameter',
  label,
  kind: 'place',
  placeholder,
  required: true,
});

/** The fields of each way; the limits and the total, which all have, stand apart. */
export const FIELDS: Record<By, PagesField[]> = {
  none: [],
  number: [
    parameter('Parameter with the number', 'page'),
    AT,
    { name: 'first', label: 'The first page is', kind: 'number', least: 0, required: true },
    {
      name: 'last_page',
      label: 'Place of the last page’s number',
      kind: 'place',
      placeholder: '$.meta.pages',
    },
    ...SIZE,
  ],
  offset: [
    parameter('Parameter with the rows before', 'offset'),
    AT,
    { name: 'first', label: 'The first row is', kind: 'number', least: 0, required: true },
    ...SIZE,
  ],
  cursor: [
    parameter('Parameter for the mark', 'cursor'),
    AT,
    {
      name: 'cursor',
      label: 'Place of the mark',
      kind: 'place',
      placeholder: '$.next_cursor',
      required: true,
    },
    MORE,
    ...SIZE,
  ],
  next: [
    {
      name: 'next',
      label: 'Place of the next address',
      kind: 'place',
      placeholder: '$.next',
      required: true,
    },
  ],
  link: [{ name: 'relation', label: 'Relation in the header', kind: 'text', required: true }],
  'last row': [
    parameter('Parameter for the value', 'after'),
    AT,
    { name: 'value', label: 'Its place in the row', kind: 'place', placeholder: '$.id', required: true },
    MORE,
    ...SIZE,
  ],
  dates: [
    { name: 'start', label: 'Parameter with the first date', kind: 'place', required: true },
    { name: 'end', label: 'Parameter with the last date', kind: 'place', required: true },
    AT,
    {
      name: 'step',
      label: 'Length of a piece (ISO 8601)',
      kind: 'place',
      placeholder: 'P7D',
      required: true,
    },
    {
      name: 'ends',
      label: 'What the API gives for a range',
      choices: [
        ['included', 'includes its last date'],
        ['excluded', 'ends before its last date'],
      ],
    },
  ],
  ids: [
    { name: 'ids', label: 'Place of the ids', kind: 'place', placeholder: '$.items[*].id', required: true },
    {
      name: 'path',
      label: 'Path of the details, with {id}',
      kind: 'place',
      placeholder: '/details?ids={id}',
      required: true,
    },
    { name: 'batch', label: 'Ids a call', kind: 'number', least: 1, required: true },
    { name: 'place', label: 'Or their place in a body', kind: 'place', placeholder: 'none' },
  ],
};

const FRESH: Record<By, Record<string, unknown>> = {
  none: {},
  number: { parameter: 'page', first: 1, at: 'address' },
  offset: { parameter: 'offset', first: 0, at: 'address' },
  cursor: { parameter: 'cursor', at: 'address', cursor: '' },
  next: { next: '' },
  link: { relation: 'next' },
  'last row': { parameter: 'after', at: 'address', value: '$.id' },
  dates: { start: 'from', end: 'to', at: 'address', step: 'P7D', ends: 'included' },
  ids: { ids: '', path: '', batch: 1, listing: { by: 'none' } },
};

/** A way of turning pages with its usual values; what the old one has in common with it stays. */
export function pagesOf(by: By, old: Pages): Pages {
  const kept = old as unknown as Record<string, unknown>;
  const names = [
    ...FIELDS[by].map((field) => field.name),
    'total',
    ...(by === 'none' ? [] : ['most', 'most_rows']),
  ];
  const taken = Object.fromEntries(
    names.filter((name) => kept[name] !== undefined && kept[name] !== null).map((name) => [name, kept[name]]),
  );
  const base = by === 'none' ? { by, total: null } : { by, total: null, most: 1000, most_rows: null };
  return { ...base, ...FRESH[by], ...taken } as unknown as Pages;
}

/** What a form holds as the brief has it: empty fields are absent, numbers are numbers. */
export function cleaned(pages: Pages): Pages {
  const fields = FIELDS[pages.by];
  const out: Record<string, unknown> = { ...(pages as unknown as Record<string, unknown>) };
  for (const [name, value] of Object.entries(out)) {
    if (typeof value === 'string') out[name] = value.trim();
    const needed = fields.find((field) => field.name === name)?.required;
    if ((out[name] === '' || out[name] === undefined) && !needed) out[name] = null;
  }
  return out as unknown as Pages;
}

const place = (at: string): string =>
  at === 'address' ? '' : at === 'body' ? ' in the body' : ' in a header';

/** The sentence in two parts: how pages are turned, and until when. */
export function pagesWords(pages: Pages): { how: string; until: string } {
  const total = 'total' in pages && pages.total ? 'all stated rows are here' : '';
  switch (pages.by) {
    case 'none':
      return { how: 'not at all', until: '' };
    case 'number':
      return {
        how: `page number${place(pages.at)}`,
        until: pages.last_page ? 'the stated last page' : total || 'a page is empty or short',
      };
    case 'offset':
      return { how: `rows before${place(pages.at)}`, until: total || 'a page is empty or short' };
    case 'cursor':
      return {
        how: `the mark at ${pages.cursor}${place(pages.at)}`,
        until: pages.more ? `${pages.more} is false` : 'there is none',
      };
    case 'next':
      return { how: `the address at ${pages.next}`, until: 'there is none' };
    case 'link':
      return { how: `“${pages.relation}” in the Link header`, until: 'there is none' };
    case 'last row':
      return {
        how: `${pages.value} of the last row`,
        until: pages.more ? `${pages.more} is false` : total || 'a page is empty or short',
      };
    case 'dates':
      return {
        how: `pieces of ${durationWords(pages.step)} from ${pages.start} to ${pages.end}`,
        until: 'the range is over',
      };
    case 'ids':
      return {
        how: `the ids at ${pages.ids}, ${pages.batch === 1 ? 'one a call' : `${count(pages.batch)} a call`}`,
        until: 'all of them were asked for',
      };
  }
}

/** Rows a page that are asked for, if the brief says so. */
export function sizeOf(pages: Pages): number | null {
  return 'size' in pages ? (pages.size ?? null) : null;
}
