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

/** A station that is not built. */
export function Unsurveyed() {
  return (
    <>
      <h2>Not surveyed yet</h2>
      <p>
        This station is not built. Nothing was checked or changed here, and a release says nothing about it.
      </p>
    </>
  );
}
