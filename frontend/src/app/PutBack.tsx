import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from './ErrorLine';

/** Remembers what was put away last, by its number, until it is put back. */
export function usePutBack(does: (number: number) => Promise<unknown>, seen: () => Promise<unknown>) {
  const [away, setAway] = useState<number | null>(null);
  const back = useMutation({ mutationFn: does, onSuccess: () => setAway(null), onSettled: seen });
  return {
    away,
    wentAway: setAway,
    error: back.error?.message,
    busy: back.isPending,
    turn: () => away !== null && back.mutate(away),
  };
}

/** Puts back what was put away last; nothing where there is none. */
export function PutBack({ back, what }: { back: ReturnType<typeof usePutBack>; what: string }) {
  if (back.away === null) return null;
  return (
    <>
      <ErrorLine says={back.error} />
      <p role="status">
        <button className="plain" disabled={back.busy} onClick={back.turn}>
          <u>put back {what}</u>
        </button>
      </p>
    </>
  );
}
