/** A request as the client was asked for it. */
export interface Sent {
  method: string;
  path: string;
  body: unknown;
  /** The revision that was seen. */
  seen: unknown;
}

interface Asked {
  body?: unknown;
  params?: { header?: Record<string, unknown> };
}

/** A client that answers every request as it is told to. */
export function answering(answer: (sent: Sent) => object) {
  const by = (method: string) => (path: string, asked?: Asked) =>
    Promise.resolve(
      answer({ method, path, body: asked?.body ?? null, seen: asked?.params?.header?.['If-Match'] ?? null }),
    );
  return { GET: by('GET'), POST: by('POST'), PUT: by('PUT'), DELETE: by('DELETE') };
}
