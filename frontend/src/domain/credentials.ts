/** How a service takes its key: sources and placements of the registry, as one choice each. */
import type { Key } from '../api/client';
import { choices, entryOf, filled, type Values } from './choices';

type Place = Key['places'][number];
type Source = Key['source'];

export interface Way {
  id: string;
  label: string;
}

const sourceOf = (by: string) => entryOf(choices().sources, by);
export const placementOf = (at: string) => entryOf(choices().placements, at);

/** A place of a kind, with what is usual for it. */
export function placeOf(at: Place['at'], field = 'key'): Place {
  const fresh = structuredClone(placementOf(at).defaults);
  return ('field' in fresh ? { ...fresh, field } : fresh) as Place;
}

/** The ways: a stored key by where it goes, any other by where it comes from. */
export function ways(): Way[] {
  return [
    ...choices().placements.map((one) => ({ id: one.key, label: one.way })),
    ...choices()
      .sources.filter((one) => !one.stored)
      .map((one) => ({ id: one.key, label: one.label })),
  ];
}

/** The source and the places of a way, with what is usual for it. */
export function made(id: string): { source: Source; places: Place[] } {
  const placement = choices().placements.find((one) => one.key === id);
  const source = placement ? choices().sources.find((one) => one.stored) : sourceOf(id);
  if (!source) throw new Error('No source keeps a key.');
  const at = (placement?.key ?? source.placement) as Place['at'];
  return { source: structuredClone(source.defaults) as Source, places: [placeOf(at)] };
}

/** Which of the ways a key is, by what it is made of. */
export function wayOf(key: Key | null | undefined): string {
  if (!key) return 'none';
  return sourceOf(key.source.by).stored ? (key.places[0]?.at ?? 'header') : key.source.by;
}

/** Where a key goes on a call, with its text masked: "header X-Key: ••••". */
export function placeWords(place: Place): { where: string; shown: string } {
  const { phrase, shown, fields } = placementOf(place.at);
  // Where all calls carry the key, the phrase says nothing of them.
  return { where: filled(phrase, fields, place as Values), shown: filled(shown, fields, place as Values) };
}

/** Where a key's secret comes from, in words; nothing for one that is stored as it is. */
export function sourceWords(key: Key): string {
  const { phrase, fields } = sourceOf(key.source.by);
  return filled(phrase, fields, key.source as Values);
}

/** Whether a person pastes the token when asked. */
export const isPasted = (key: Key | null | undefined): boolean => !!key && sourceOf(key.source.by).pasted;
