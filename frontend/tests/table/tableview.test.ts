import { expect, test } from 'vitest';
import { conditionWords } from '../../src/domain/words/conditions';
import { TableView } from '../../src/table/tableview.svelte';

const between = (low: string) => ({ by: 'between' as const, column: 'fare', low, high: null, no: false });
const text = (text: string, no = false) => ({ by: 'text' as const, column: 'port', text, no });

test('several conditions of one column hold at once', () => {
  const look = new TableView();
  look.filterBy(text('ox'));
  look.filterBy(text('old', true));
  look.filterBy({ by: 'empty', column: 'port', no: true });
  expect(look.where.map(conditionWords)).toEqual([
    'port with “ox”',
    'port without “old”',
    'port has a value',
  ]);
  look.filterBy(text('ox'));
  expect(look.where).toHaveLength(3);
});

test('another range takes the place of the old one, and each is taken off by itself', () => {
  const look = new TableView();
  look.filterBy(between('1'));
  look.filterBy(text('ox'));
  look.filterBy(between('5'));
  expect(look.conditionsOf('fare').map(conditionWords)).toEqual(['fare from 5 on']);
  const [own] = look.conditionsOf('fare');
  if (own) look.unfilter(own);
  expect(look.where.map(conditionWords)).toEqual(['port with “ox”']);
});
