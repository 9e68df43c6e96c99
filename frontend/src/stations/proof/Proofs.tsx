import { ErrorLine } from '../../app/ErrorLine';
import { PutBack } from '../../app/PutBack';
import { count, duration, mm, moment } from '../../app/units';
import type { FigureProofs, Pin, ProofView } from '../../app/client';
import type { Sheet } from '../../figure/sheet';
import { Forms } from './Forms';
import styles from './proof.module.css';
import { useProofs } from './useProofs';
import { CAUSES, decided, OUTCOMES, verdict, WHENS } from './words';

/** What proofs say of the edition that is looked at, and one of them. */
export function Proofs({ page, acts, busy }: Pick<Sheet, 'page' | 'acts' | 'busy'>) {
  const proofs = useProofs(page);
  const { all, chosen, state, error } = proofs;
  return (
    <>
      <ErrorLine says={error} />
      <h2>{state ? stateSaid(state) : 'Looking for proofs …'}</h2>
      {state?.kind === 'another' && (
        <p className="why">
          What held then had otherwise: {state.differs.join('; ')}. Three prints of three files prove nothing
          of a fourth.
        </p>
      )}
      {state?.kind === 'not' && all.length === 0 && (
        <p className="why">
          A proof is one print of exactly the files that go out. Begin one, and pin what goes wrong on the
          figure: the checks and the bench learn from it.
        </p>
      )}
      {proofs.unreadable > 0 && (
        <p className="soft">
          {count(proofs.unreadable, 'proof')} that another version of Ulvet wrote cannot be read by this one:
          kept, and not counted.
        </p>
      )}
      <PutBack back={proofs.back} what="the proof that was begun by mistake" />
      {all.length > 0 && <ProofLine all={all} chosen={chosen} choose={proofs.choose} />}
      {chosen && <OneProof proof={chosen} {...proofs} />}
      {chosen && <Forms proof={chosen} page={page} acts={acts} busy={busy} />}
    </>
  );
}

/** The proofs in a row, the oldest first. */
function ProofLine({
  all,
  chosen,
  choose,
}: {
  all: ProofView[];
  chosen: ProofView | null;
  choose: (number: number) => void;
}) {
  return (
    <ol className={styles.line} aria-label="Proofs">
      {all.map((one) => (
        <li key={one.number}>
          <button
            className="plain"
            aria-pressed={one === chosen}
            data-verdict={verdict(one)}
            onClick={() => choose(one.number)}
          >
            <span className={styles.dot} aria-hidden="true" />
            <b>{one.number}</b> <span>{verdict(one)}</span>
          </button>
        </li>
      ))}
    </ol>
  );
}

/** One proof: what was told and what came, and what went wrong. */
function OneProof({
  proof,
  busy,
  undo,
  redo,
  drop,
}: { proof: ProofView } & Pick<ReturnType<typeof useProofs>, 'busy' | 'undo' | 'redo' | 'drop'>) {
  const { proof: said, number } = proof;
  const { came, told } = said;
  const bare =
    !came.pins.length && !came.lengths.length && !came.seconds && !came.copies.some((c) => c.outcome);
  const first = said.parts[0];
  return (
    <section aria-label={`Proof ${number}`}>
      <h3>
        Proof {number}
        {first?.version ? `, of version ${first.version}` : first && `, of revision ${first.revision}`},{' '}
        {moment(said.began)}
      </h3>
      <p>
        {said.setting_name}: <b>{came.seconds ? duration(came.seconds) : '–'}</b> for {duration(told.seconds)}{' '}
        told; <b>{came.ml ? came.ml.toFixed(1) : '–'}</b> ml for {told.ml.toFixed(1)}
        {came.cleanup_min != null && `; ${came.cleanup_min.toFixed(0)} min of cleaning up`}
      </p>
      {proof.differs.length > 0 && (
        <p className="soft">Otherwise than the proof before: {proof.differs.join('; ')}.</p>
      )}
      <ul className="plain-list" aria-label="Copies">
        {said.parts.map((part, k) => (
          <li key={part.part + part.edition}>
            {part.called}, {part.size_mm.map(mm).join(' x ')} mm:{' '}
            {came.copies
              .filter((copy) => copy.part === k)
              .map((copy) => (copy.outcome ? OUTCOMES[copy.outcome] : 'not told yet'))
              .join(', ') || 'no copy'}
            {'; '}
            <a href={`/api/proofs/${number}/parts/${k}.stl`}>the file, STL</a>
          </li>
        ))}
      </ul>
      <p>
        <a href={`/api/proofs/${number}/plate.3mf`}>the plate, 3MF</a>{' '}
        <a href={`/api/proofs/${number}/plate.stl`}>STL</a>
      </p>
      {came.pins.length > 0 && (
        <>
          <h3>What went wrong</h3>
          <ul className="plain-list" aria-label="Pins">
            {came.pins.map((pin) => (
              <PinLine key={pin.id} pin={pin} foretold={proof.foretold[pin.id] ?? []} />
            ))}
          </ul>
        </>
      )}
      {came.lengths.length > 0 && (
        <table className="limbs">
          <thead>
            <tr>
              <th scope="col">length</th>
              <th scope="col">drawn, mm</th>
              <th scope="col">measured, mm</th>
              <th scope="col">in the proof before</th>
            </tr>
          </thead>
          <tbody>
            {came.lengths.map((length, k) => (
              <tr key={k}>
                <th scope="row">{length.name || `length ${k + 1}`}</th>
                <td>{length.drawn.toFixed(2)}</td>
                <td>{length.measured.toFixed(2)}</td>
                <td>{beforeSaid(proof.lengths_before[k])}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {came.scars.length > 0 && (
        <p>Scars: {came.scars.map(({ side, count: many }) => `${many} ${side}`).join(', ')}</p>
      )}
      {came.remarks && <p className="why">{came.remarks}</p>}
      {came.ready.length > 0 && <p className="soft">Ticked before the start: {came.ready.join('; ')}.</p>}
      <p className={styles.entries}>
        <button className="plain" disabled={busy || !proof.can_undo} onClick={() => undo(proof)}>
          <u>take the last entry back</u>
        </button>
        <button className="plain" disabled={busy || !proof.can_redo} onClick={() => redo(proof)}>
          <u>make it again</u>
        </button>
        {bare && (
          <button className="plain" disabled={busy} onClick={() => drop(proof)}>
            <u>it was begun by mistake</u>
          </button>
        )}
      </p>
    </section>
  );
}

const beforeSaid = (before: ProofView['lengths_before'][string] | undefined) =>
  before
    ? `${before.measured.toFixed(2)} for ${before.drawn.toFixed(2)} in proof ${before.proof}`
    : 'not measured';

function PinLine({ pin, foretold }: { pin: Pin; foretold: string[] }) {
  return (
    <li>
      <b>{pin.what || CAUSES[pin.cause]}</b>
      {pin.what && `: ${CAUSES[pin.cause]}`}, {WHENS[pin.when]}; {decided(pin)}.{' '}
      <span className="soft">
        {foretold.length ? `Foretold: ${foretold[0] ?? ''}` : 'Not foretold'}
        {pin.photos.length > 0 && `; ${count(pin.photos.length, 'photo')}`}
      </span>
      {pin.photos.map((photo) => (
        <img
          key={photo}
          className={styles.photo}
          src={`/api/blobs/${photo}`}
          alt={pin.what || CAUSES[pin.cause]}
        />
      ))}
    </li>
  );
}

function stateSaid({ kind, proof }: FigureProofs['state']): string {
  const of = proof ?? '';
  switch (kind) {
    case 'exact':
      return `Proofed in exactly this form: proof ${of}`;
    case 'another':
      return `Proofed in another form: proof ${of}`;
    case 'failed':
      return `Printed in exactly this form and failed: proof ${of}`;
    case 'running':
      return `Being proofed: nobody has said how proof ${of} came out`;
    default:
      return 'Not proofed';
  }
}
