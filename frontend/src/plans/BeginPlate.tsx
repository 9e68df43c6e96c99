import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { api, dataOf, type PlanTold, type ProofView } from '../app/client';
import { Ready } from '../stations/proof/Ready';

type Drawn = PlanTold['plates'][number];

/** Begins a plate as a proof of the files as they are now, once what has to be ready is ticked. */
export function BeginPlate({ plate }: { plate: Drawn }) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const [ticked, setTicked] = useState<string[]>([]);
  const ready = plate.ready ?? [];
  const begin = useMutation({
    mutationFn: () =>
      dataOf<ProofView[]>(api.POST('/api/proofs', { body: { parts: partsOf(plate), ready: ticked } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['proofs'] }),
  });
  const begun = begin.data?.[0];
  const first = plate.lying[0];
  if (begun && first)
    return (
      <p role="status">
        Begun as{' '}
        <Link to={`/figures/${first.figure}/proof?edition=${first.edition}&proof=${begun.number}`}>
          proof {begun.number}
        </Link>
        .
      </p>
    );
  if (!open)
    return (
      <p>
        <button className="ruled" onClick={() => setOpen(true)}>
          Begin this plate as a proof
        </button>
      </p>
    );
  return (
    <>
      {begin.error && (
        <p className="error" role="alert">
          {begin.error.message}
        </p>
      )}
      <Ready ready={ready} ticked={ticked} tick={setTicked} />
      <p>
        <button className="ruled" disabled={begin.isPending} onClick={() => begin.mutate()}>
          Begin it
        </button>
      </p>
    </>
  );
}

/** What lies on a plate, a line a part with how many there are. */
function partsOf(plate: Drawn) {
  const lines = new Map<string, { figure: number; edition: string; part: string; count: number }>();
  for (const { figure, edition = '', part = '' } of plate.lying) {
    const key = `${figure} ${edition} ${part}`;
    lines.set(key, { figure, edition, part, count: (lines.get(key)?.count ?? 0) + 1 });
  }
  return [...lines.values()];
}
