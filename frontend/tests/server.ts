/** Stands in for the server. The client takes hold of `fetch` when it is imported, so this is imported before it. */
interface Stand {
  handle: (request: Request) => Promise<Response>;
}

declare global {
  // One for all test files: the client is shared between them.
  var standIn: Stand | undefined;
}

export const empty = async (): Promise<Response> => new Response('{}');

function standIn(): Stand {
  const stand: Stand = { handle: empty };
  globalThis.fetch = ((request: Request) => stand.handle(request)) as typeof fetch;
  globalThis.Request = class extends Request {
    constructor(url: string | URL | Request, init?: RequestInit) {
      super(typeof url === 'string' ? new URL(url, 'http://here') : url, init);
    }
  };
  return stand;
}

export const server: Stand = (globalThis.standIn ??= standIn());
