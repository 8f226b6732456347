import { expect, test } from 'vitest';
import type { ServiceInfo } from '../../src/api/client';
import { originOf, serviceOf } from '../../src/domain/services';

const service = (id: string, base: string) => ({ service: { id, base } }) as ServiceInfo;
const SERVICES = [service('all', 'https://api.example'), service('v2', 'https://api.example/v2')];

test('a full address goes to the service whose base is the longest part of it', () => {
  expect(serviceOf(' https://api.example/v2/ports?x=1 ', SERVICES)).toEqual({
    service: 'v2',
    path: '/ports?x=1',
  });
  expect(serviceOf('https://api.example/v22', SERVICES)).toEqual({ service: 'all', path: '/v22' });
  expect(serviceOf('https://api.example', SERVICES)).toEqual({ service: 'all', path: '/' });
});

test('what is a path, or lies elsewhere, has no service', () => {
  expect(serviceOf('/ports', SERVICES)).toBeNull();
  expect(serviceOf('https://api.example.org/ports', SERVICES)).toBeNull();
  expect(originOf('https://api.example.org:8443/ports')).toBe('https://api.example.org:8443');
  expect(originOf('/ports')).toBeNull();
  expect(originOf('https://')).toBeNull();
});
