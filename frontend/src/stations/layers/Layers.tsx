import { count, duration, money } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import { LayerDrawing } from './LayerDrawing';

/** What the printer will see, layer by layer. */
export function Layers({
  page,
  build,
  part = build.parts[0],
  large,
}: Pick<Sheet, 'page' | 'build' | 'part' | 'large'>) {
  const estimate = part?.estimate;
  return (
    <>
      <LayerDrawing key={part?.facts.part} build={build} part={part} large={large} />
      {part && estimate && (
        <p>
          <b>Look at it</b>{' '}
          {part.look
            ? `first after ${duration(part.look.seconds)}, at layer ${(part.look.layer + 1).toLocaleString('en')}: ` +
              `its weakest layer so far, ${(part.look.weak_layer + 1).toLocaleString('en')}, is passed and it can be seen.`
            : 'when it is done: nothing of it can be seen before.'}
        </p>
      )}
      {part?.layers && (
        <p>
          <a
            href={`/api/figures/${page.id}/parts/${build.parts.indexOf(part)}/layers.zip?edition=${page.looked}`}
          >
            all layers as pictures, ZIP
          </a>
        </p>
      )}
      {estimate && (
        <p className="why">
          {count(estimate.layers, 'layer')}, {duration(estimate.seconds)}, {estimate.material_ml.toFixed(1)}{' '}
          ml, {money(estimate.money)} of material (estimate). <span className="soft">{estimate.model}</span>
        </p>
      )}
    </>
  );
}
