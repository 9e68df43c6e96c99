import type { BuildRecord, Step } from '../../app/client';
import type { FigureActs } from '../../figure/useFigure';
import { StepSentences } from '../StepSentences';
import { QUESTIONS, SAID, useTerms } from './TermsFields';
import styles from './terms.module.css';

/** Whose everything in the figure is, what it depicts, how it is to go out, and what the whole inherits. */
export function Terms({ build, acts }: { build: BuildRecord; acts: FigureActs }) {
  const list = useTerms();
  if (!list) return <p className="soft">Looking up the terms …</p>;
  return (
    <>
      <h3>What may be done with it</h3>
      <table className={styles.ruled}>
        <tbody>
          {QUESTIONS.map(([key, asks]) => {
            const because = build.inherited[key];
            return (
              <tr key={key}>
                <th scope="row">{asks}</th>
                <td>
                  <b>{SAID[because.answer]}</b>
                </td>
                <td className="soft">{because.of.length ? `because of ${because.of.join(', ')}` : ''}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {build.inherited.alike.map(([name, terms]) => (
        <p key={name}>
          {name} may go on only under {terms.name}.
        </p>
      ))}
      <p className="soft">{list.no_advice}</p>
      <h3>What it depicts</h3>
      <StepSentences
        build={build}
        acts={acts}
        kind="depict"
        label="What the figure depicts, as recorded"
        none="Nothing others have a say in, as far as was said."
      />
    </>
  );
}

/** What a step takes from outside, by its hash and its file's name; nothing where it is switched off. */
function broughtBy(step: Step): { source: string; file: string }[] {
  if (!step.on) return [];
  if (step.kind === 'bring-in' || step.kind === 'add-bit') return [{ source: step.source, file: step.name }];
  return step.kind === 'stamp' && step.picture ? [{ source: step.picture, file: step.name }] : [];
}

/** Everything that comes from outside, by its hash and its file's name. */
export function broughtIn({ steps }: BuildRecord): { source: string; file: string }[] {
  return steps.flatMap(({ step }) => broughtBy(step));
}
