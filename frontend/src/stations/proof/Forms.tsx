import type { FigurePage, ProofView } from '../../app/client';
import type { Sheet } from '../../figure/sheet';
import { OUTCOMES } from './words';

type Edition = FigurePage['editions'][number];
interface Came {
  edition: string;
  name: string;
  outcomes: string;
}

/** How each of several forms came out of one proof, and the better one kept by one act: its variant and form are those
 *  of the other edition too. */
export function Forms({
  proof,
  page,
  acts,
  busy,
}: { proof: ProofView } & Pick<Sheet, 'page' | 'acts' | 'busy'>) {
  const forms = formsIn(proof, page.id);
  if (forms.length < 2) return null;
  const editions = new Map(page.editions.map((one) => [one.id, one]));
  return (
    <>
      <h3>{forms.length === 2 ? 'Two forms' : `${forms.length} forms`} beside each other</h3>
      <ul className="plain-list" aria-label="Forms">
        {forms.map(({ edition, name, outcomes }) => {
          const kept = editions.get(edition);
          const others = forms.flatMap((form) => {
            const other = editions.get(form.edition);
            return other && kept && other !== kept && !alike(other, kept) ? [other] : [];
          });
          return (
            <li key={edition}>
              <b>{name}</b>: {outcomes}{' '}
              {kept &&
                others.map((other) => (
                  <button
                    key={other.id}
                    className="plain"
                    disabled={busy}
                    onClick={() =>
                      acts.changeEdition(other.id, {
                        name: other.name,
                        sized_by: other.sized_by,
                        made: { ...other.made, variant: kept.made.variant, form: kept.made.form },
                      })
                    }
                  >
                    <u>keep it: {other.name} takes this form too</u>
                  </button>
                ))}
            </li>
          );
        })}
      </ul>
    </>
  );
}

const alike = (one: Edition, other: Edition) =>
  one.made.variant === other.made.variant &&
  JSON.stringify(one.made.form) === JSON.stringify(other.made.form);

/** Editions of a figure that a proof printed, each with how its copies came out. */
function formsIn({ proof }: ProofView, figure: number): Came[] {
  const editions = [
    ...new Map(
      proof.parts.filter((part) => part.figure === figure).map((part) => [part.edition, part.edition_name]),
    ),
  ];
  return editions.map(([edition, name]) => {
    const copies = proof.came.copies.filter(({ part }) => proof.parts[part]?.edition === edition);
    const said = copies.map(({ outcome }) => (outcome ? OUTCOMES[outcome] : 'not told yet'));
    return { edition, name, outcomes: said.join(', ') || 'no copy' };
  });
}
