import type { Unseen } from '../app/client';

/** What could not be looked at here: not the same as nothing found. */
export function Gaps({ unseen }: { unseen: Unseen[] }) {
  return unseen.map((gap) => (
    <section key={gap.part + gap.why}>
      <h2>Not seen</h2>
      <p className="error">{gap.why}</p>
    </section>
  ));
}
