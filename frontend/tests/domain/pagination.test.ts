import { describe, expect, it } from 'vitest';
import { choices } from '../../src/domain/choices';
import { cleanedPages, pagesOf, pagesWords, sizeOf, type By, type Pages } from '../../src/domain/pagination';

const number = pagesOf('number', { by: 'none', total: '$.total' });

describe('ways to turn pages', () => {
  it('each has its fields, its usual values and its sentence', () => {
    for (const { key: by, fields } of choices().pagination) {
      const made = pagesOf(by as By, number) as unknown as Record<string, unknown>;
      expect(made.by).toBe(by);
      for (const field of fields.filter((one) => one.required)) expect(made[field.name]).toBeDefined();
      const { how, until } = pagesWords(made as unknown as Pages);
      expect(how).not.toBe('');
      expect(how + until).not.toContain('{');
    }
  });

  it('keep what they have in common', () => {
    const changed = { ...number, size_parameter: 'limit', size: 50, at: 'body' } as Pages;
    expect(pagesOf('offset', changed)).toMatchObject({
      size: 50,
      size_parameter: 'limit',
      at: 'body',
      total: '$.total',
    });
    expect(pagesOf('none', changed)).toMatchObject({ by: 'none', total: '$.total' });
    expect('size' in pagesOf('none', changed)).toBe(false);
    expect(sizeOf(changed)).toBe(50);
    expect(sizeOf({ by: 'none', total: null })).toBeNull();
  });

  it('are cleaned before they go into the brief', () => {
    const made = cleanedPages({
      ...number,
      last_page: '  ',
      size: '',
      parameter: ' page ',
    } as unknown as Pages);
    expect(made).toMatchObject({ last_page: null, size: null, parameter: 'page' });
  });

  it('say until when they go on', () => {
    expect(pagesWords(number).until).toBe('all stated rows are here');
    expect(pagesWords({ ...number, last_page: '$.pages' } as Pages).until).toBe('the stated last page');
    expect(pagesWords(pagesOf('dates', number)).how).toBe('windows of 7 days from from to to');
  });
});
