import type { BuildRecord, FigurePage, Material, Printer } from '../../app/client';
import { duration, mm } from '../../app/units';
import type { FigureActs } from '../../figure/useFigure';
import { KeptNumber, ChoiceField } from '../Fields';

/** How large the figure is, and what that takes. */
export function SizeNow({ build }: { build: BuildRecord }) {
  const { estimate, size_mm: size } = build;
  return (
    <>
      <h2>{mm(size[2])} mm tall</h2>
      <dl className="facts">
        <dt>wide, deep, tall</dt>
        <dd>{size.map(mm).join(' x ')} mm</dd>
        {estimate && (
          <>
            <dt>estimate</dt>
            <dd>
              {estimate.material_ml.toFixed(1)} ml, {duration(estimate.seconds)}, {estimate.money.toFixed(2)}{' '}
              of material
              <div className="soft">{estimate.model}</div>
            </dd>
          </>
        )}
      </dl>
    </>
  );
}

/** The height or the factor, typed. */
export function HeightOrFactor({
  page,
  build,
  acts,
}: {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
}) {
  const factor = build.parts[0]?.facts.factor;
  const { edition } = page;
  const tall = mm(build.size_mm[2]);
  if (factor === undefined) return null;
  return (
    <div className="fields">
      <KeptNumber
        key={`height ${tall}`}
        label="Overall height, mm"
        value={tall}
        save={(height) => acts.setEdition({ ...edition, height, factor: null })}
      />
      <KeptNumber
        key={`factor ${factor}`}
        label="Factor from source to print"
        value={factor.toPrecision(5)}
        save={(to) => acts.setEdition({ ...edition, height: null, factor: to })}
      />
      <p className="soft">A number is taken when you press Enter or leave its field.</p>
    </div>
  );
}

/** The printer and the material it is made for. */
export function PrinterAndMaterial({
  page,
  acts,
  printers,
  materials,
}: {
  page: FigurePage;
  acts: FigureActs;
  printers: Printer[];
  materials: Material[];
}) {
  const { edition } = page;
  const printer = printers.find((other) => other.id === edition.printer);
  const fitting = materials.filter((material) => material.process === printer?.process);
  return (
    <div className="fields">
      <ChoiceField
        label="Printer"
        value={edition.printer}
        options={printers.map(
          (other) =>
            [
              other.id,
              `${other.name}, ${other.process}, builds ${other.volume.map(mm).join(' x ')} mm`,
            ] as const,
        )}
        change={(to) => {
          const next = printers.find((other) => other.id === to);
          const material = materials.find((m) => m.id === edition.material && m.process === next?.process);
          const other = materials.find((m) => m.process === next?.process);
          acts.setEdition({
            ...edition,
            printer: to,
            material: (material ?? other)?.id ?? edition.material,
          });
        }}
      />
      <ChoiceField
        label="Material"
        value={fitting.length ? edition.material : ''}
        options={fitting.map(
          (material) =>
            [
              material.id,
              `${material.name}, walls from ${mm(material.walls.free_standing.stop)} mm`,
            ] as const,
        )}
        change={(to) => acts.setEdition({ ...edition, material: to })}
      />
    </div>
  );
}
