import TextField from '@mui/material/TextField';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf, type PrintView, type ProofView } from '../../app/client';
import { count, duration } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import { isUnderWay, LOOKS_MS, STAND_IN } from './printing';
import styles from './proof.module.css';
import { useProofs } from './useProofs';

/** Sends a proof to a printer that speaks the printer protocol, and follows it there. */
export function PrinterAct({ page }: Pick<Sheet, 'page'>) {
  const { chosen } = useProofs(page);
  if (!chosen) return <p className="soft">Begin a proof first.</p>;
  return chosen.proof.came.printer ? <Followed of={chosen} /> : <Send key={chosen.number} of={chosen} />;
}

function Send({ of }: { of: ProofView }) {
  const client = useQueryClient();
  const [printer, setPrinter] = useState(STAND_IN);
  const send = useMutation({
    mutationFn: () =>
      dataOf<PrintView>(
        api.POST('/api/proofs/{proof}/print', { params: { path: { proof: of.number } }, body: { printer } }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['proofs'] }),
  });
  return (
    <>
      <h3>Proof {of.number}</h3>
      <ErrorLine says={send.error?.message} />
      <div className="fields">
        <TextField
          size="small"
          label="Address of the printer"
          value={printer}
          onChange={(event) => setPrinter(event.target.value)}
        />
      </div>
      <p className="soft">
        On this machine only. A simulated one is begun with <code>ulvet standin printer</code>; the outcome of
        a real one is entered by hand.
      </p>
      <div className="do-it">
        <button className="ruled" disabled={send.isPending || !printer.trim()} onClick={() => send.mutate()}>
          {send.isPending ? 'Sending …' : 'Send it'}
        </button>
      </div>
    </>
  );
}

function Followed({ of }: { of: ProofView }) {
  const client = useQueryClient();
  const params = { path: { proof: of.number } };
  const key = ['print', of.number];
  const print = useQuery({
    queryKey: key,
    queryFn: async () => {
      const told = await dataOf<PrintView>(api.PUT('/api/proofs/{proof}/print', { params }));
      if (!isUnderWay(told.state)) {
        void client.invalidateQueries({ queryKey: ['proofs'] });
        void client.invalidateQueries({ queryKey: ['figure'] });
      }
      return told;
    },
    refetchInterval: ({ state }) => (state.error || isUnderWay(state.data?.state) ? LOOKS_MS : false),
    retry: false,
  });
  const stop = useMutation({
    mutationFn: () => dataOf<PrintView>(api.DELETE('/api/proofs/{proof}/print', { params })),
    onSuccess: () => client.invalidateQueries({ queryKey: key }),
  });
  const told = print.data;
  return (
    <>
      <h3>Proof {of.number}</h3>
      <ErrorLine says={print.error?.message} />
      {!told && !print.error && <p className="soft">Asking the printer …</p>}
      {told && (
        <>
          <p role="status">
            {said(told)}
            {told.events > 0 && `; ${count(told.events, 'thing')} went wrong`}
          </p>
          <progress
            className={styles.progress}
            max={Math.max(told.layers, 1)}
            value={told.layer}
            aria-label="Layers"
          />
          <p className="soft">
            layer {told.layer.toLocaleString('en')} of {told.layers.toLocaleString('en')},{' '}
            {duration(told.seconds)} by its clock, {told.ml.toFixed(1)} ml
          </p>
          {isUnderWay(told.state) && (
            <button className="ruled" disabled={stop.isPending} onClick={() => stop.mutate()}>
              Stop the print
            </button>
          )}
          {told.state === 'done' && (
            <img
              className={styles.came}
              src={`/api/proofs/${of.number}/print/picture.png`}
              alt="What came out, from its front"
            />
          )}
        </>
      )}
    </>
  );
}

function said({ state, error }: PrintView): string {
  switch (state) {
    case 'waiting':
      return 'It is got ready';
    case 'printing':
      return 'It is printing';
    case 'done':
      return 'It is done, and what came out is entered';
    case 'stopped':
      return 'It was stopped, and is entered as failed';
    default:
      return `The printer could not print it: ${error}`;
  }
}
