import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type PlanView } from '../app/client';
import { Ready } from '../stations/proof/Ready';
import type { Drawn } from './handPlaced';

/** Begins a plate as a proof of the files as they are now, once what has to be ready is ticked. */
export function BeginPlate({ plate }: { plate: Drawn }) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const [ticked, setTicked] = useState<string[]>([]);
  const begin = useMutation({
    mutationFn: () =>
      dataOf<PlanView>(
        api.POST('/api/plan/begun', {
          body: {
            parts: partsOf(plate),
            ready: ticked,
            lying: plate.lying.map(({ figure, edition, part, layers, x, y, turn }) => ({
              ...{ figure, edition, part, layers, x, y, turn },
            })),
          },
        }),
      ),
    onSuccess: (after) => {
      client.setQueryData(['plan'], after);
      void client.invalidateQueries({ queryKey: ['proofs'] });
    },
  });
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
      <ErrorLine says={begin.error?.message} />
      <Ready ready={plate.ready} ticked={ticked} tick={setTicked} />
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
  const lines = new Map<
    string,
    { figure: number; edition: string; part: string; count: number; painted: boolean }
  >();
  for (const { figure, edition, part } of plate.lying) {
    const key = `${figure} ${edition} ${part}`;
    const count = (lines.get(key)?.count ?? 0) + 1;
    lines.set(key, { figure, edition, part, count, painted: false });
  }
  return [...lines.values()];
}
