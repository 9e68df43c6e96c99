import { count, duration, money } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import { LayerDrawing } from './LayerDrawing';

/** What the printer will see, layer by layer. */
export function Layers({ build, part = build.parts[0], large }: Pick<Sheet, 'build' | 'part' | 'large'>) {
  const estimate = part?.estimate;
  return (
    <>
      <LayerDrawing key={part?.facts.part} build={build} part={part} large={large} />
      {estimate && (
        <p className="why">
          {count(estimate.layers, 'layer')}, {duration(estimate.seconds)}, {estimate.material_ml.toFixed(1)}{' '}
          ml, {money(estimate.money)} of material (estimate). <span className="soft">{estimate.model}</span>
        </p>
      )}
    </>
  );
}
