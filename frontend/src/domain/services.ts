/** Full addresses where a service and a path are wanted. */
import type { ServiceInfo } from '../api/client';

const FULL = /^https?:\/\//i;

/** The service that a full address belongs to, and the path below it; nothing where none is there. */
export function serviceOf(
  address: string,
  services: ServiceInfo[],
): { service: string; path: string } | null {
  const text = address.trim();
  if (!FULL.test(text)) return null;
  const known = services
    .filter((one) => text === one.service.base || text.startsWith(`${one.service.base}/`))
    .sort((a, b) => b.service.base.length - a.service.base.length)[0];
  if (!known) return null;
  return { service: known.service.id, path: text.slice(known.service.base.length) || '/' };
}

/** The origin of a full address, if it is one. */
export function originOf(address: string): string | null {
  const text = address.trim();
  return FULL.test(text) && URL.canParse(text) ? new URL(text).origin : null;
}
