import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { Link } from 'react-router';

import type { BuildRecord, FigurePage, Material, PartRecord, Printer } from '../app/client';
import { duration, mm } from '../app/units';
import type { Picking } from '../figure/picking';
import type { FigureActs } from '../figure/useFigure';
import { KeptNumber } from './Fields';
import { ForeignThings } from './Foreign';
import { Measures } from './Measures';
import { SizeScale } from './SizeScale';
import { Ways } from './Ways';

interface Props {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
  printers: Printer[];
  materials: Material[];
  picking: Picking;
  /** The part that is drawn. */
  part?: PartRecord | undefined;
}

/** Size: how tall, on what, of what, and what follows from it. */
export function SizePanel({ page, build, acts, printers, materials, picking, part }: Props) {
  const factor = build.parts[0]?.facts.factor;
  const { estimate, size_mm: size } = build;
  const { edition } = page;
  const printer = printers.find((other) => other.id === edition.printer);
  const fitting = materials.filter((material) => material.process === printer?.process);
  if (factor === undefined) return null;
  return (
    <>
      <h2>How tall, on what, of what</h2>
      <div className="fields">
        <KeptNumber
          key={`height ${size[2]}`}
          label="Overall height, mm"
          value={mm(size[2])}
          save={(height) => acts.setEdition({ ...edition, height, factor: null })}
        />
        <KeptNumber
          key={`factor ${factor}`}
          label="Factor from source to print"
          value={factor.toPrecision(5)}
          save={(factor) => acts.setEdition({ ...edition, height: null, factor })}
        />
        <TextField
          select
          label="Printer"
          value={edition.printer}
          onChange={(event) => {
            const next = printers.find((other) => other.id === event.target.value);
            const material = materials.find((m) => m.id === edition.material && m.process === next?.process);
            const other = materials.find((m) => m.process === next?.process);
            acts.setEdition({
              ...edition,
              printer: event.target.value,
              material: (material ?? other)?.id ?? edition.material,
            });
          }}
        >
          {printers.map((other) => (
            <MenuItem key={other.id} value={other.id}>
              {other.name}, {other.process}, builds {other.volume.map(mm).join(' x ')} mm
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          label="Material"
          value={fitting.length ? edition.material : ''}
          onChange={(event) => acts.setEdition({ ...edition, material: event.target.value })}
        >
          {fitting.map((material) => (
            <MenuItem key={material.id} value={material.id}>
              {material.name}, walls from {mm(material.walls.free_standing.stop)} mm
            </MenuItem>
          ))}
        </TextField>
      </div>
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
      <Ways key={page.id} {...{ page, build, acts, printers, picking }} />
      <SizeScale build={build} />
      <Measures {...{ build, part, acts, picking }} />
      <ForeignThings {...{ page, build, acts }} />
      <p>
        <Link to={`/line-up?figures=${page.id}`}>Line it up with others, on screen and on paper</Link>
      </p>
    </>
  );
}
