import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import {
  api,
  told,
  type BuildRecord,
  type FigurePage,
  type JobView,
  type Material,
  type PartRecord,
  type Printer,
  type ReleaseView,
} from '../app/client';
import { Coming, FilePicker, useBringIn } from '../app/bringIn';
import { ended } from '../app/jobs';
import { Mark } from '../app/Mark';
import { bytes, count, duration, mm } from '../app/units';
import type { FigureActs } from '../figure/useFigure';
import { LayerDrawing } from './LayerDrawing';

interface Props {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
  printers: Printer[];
  materials: Material[];
  large: boolean;
  /** The part that is drawn. */
  part?: PartRecord | undefined;
}

/** Bring in: what the source is. */
export function BringInPanel({ page, build, acts, part = build.parts[0] }: Props) {
  const facts = part?.facts;
  const { coming, error, bringIn } = useBringIn();
  const now = page.sources.filter((source) => source.now);
  const before = page.sources.filter((source) => !source.now);
  return (
    <>
      <h2>Where it came from</h2>
      {now.map((source) => (
        <dl className="facts" key={source.sha256}>
          <dt>file</dt>
          <dd>
            {source.file_name}, {bytes(source.bytes)}
          </dd>
          <dt>SHA-256</dt>
          <dd>{source.sha256}</dd>
          {facts && (
            <>
              <dt>{build.parts.length > 1 ? facts.part : 'holds'}</dt>
              <dd>
                {count(facts.triangles, 'triangle')}, {count(facts.vertices, 'vertex', 'vertices')},{' '}
                {count(facts.shells, 'shell')}, {facts.watertight ? 'closed' : 'not closed'}
              </dd>
            </>
          )}
        </dl>
      ))}
      <p>{build.steps[0]?.sentence.join('')}</p>
      <p style={{ margin: '10px 0' }}>
        <FilePicker
          says="Bring in a new sculpt"
          disabled={acts.busy || coming !== null}
          take={(file) => void bringIn(file, { figure: page.id, revision: page.revision })}
        />{' '}
        <Coming coming={coming} />
      </p>
      <p className="error" role="alert">
        {error}
      </p>
      <p className="soft">
        The record is run again on it: size, remedies and supports stay, points are looked for on the new
        surface, and what no longer lands is told. Undo brings the sculpt from before back.
      </p>
      {before.length > 0 && (
        <p className="soft">Kept from before: {before.map((source) => source.file_name).join(', ')}.</p>
      )}
    </>
  );
}

/** Size: how tall, on what, of what, and what follows from it. */
export function SizePanel({ page, build, acts, printers, materials }: Props) {
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
        <SizeField
          key={`height ${size[2]}`}
          label="Overall height, mm"
          value={mm(size[2])}
          save={(height) => acts.setEdition({ ...edition, height, factor: null })}
        />
        <SizeField
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
              {material.name}, walls from {mm(material.wall_stop)} mm
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
    </>
  );
}

function SizeField({ label, value, save }: { label: string; value: string; save: (value: number) => void }) {
  const [text, setText] = useState(value);
  const number = Number(text.replace(',', '.'));
  const usable = Number.isFinite(number) && number > 0;
  const keep = () => usable && text !== value && save(number);
  return (
    <TextField
      label={label}
      value={text}
      error={!usable}
      helperText={usable ? ' ' : 'a number above 0'}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && keep()}
    />
  );
}

/** A station at which nothing was found. */
export function ClearPanel({ says }: { says: string }) {
  return (
    <>
      <h2>Nothing to mark here</h2>
      <p>{says}</p>
    </>
  );
}

/** Layers, when no finding is in focus. */
export function LayersPanel({ build, part = build.parts[0], large }: Props) {
  const estimate = part?.estimate;
  return (
    <>
      <h2>What the printer will see</h2>
      <LayerDrawing key={part?.facts.part} build={build} part={part} large={large} />
      {estimate && (
        <p className="why">
          {count(estimate.layers, 'layer')}, {duration(estimate.seconds)}, {estimate.material_ml.toFixed(1)}{' '}
          ml, {estimate.money.toFixed(2)} of material (estimate).{' '}
          <span className="soft">{estimate.model}</span>
        </p>
      )}
    </>
  );
}

/** Release: what would go out, what is open, and the files. */
export function ReleasePanel({ page, build, acts }: Props) {
  const client = useQueryClient();
  const key = ['releases', page.id];
  const path = { number: page.id };
  const releases = useQuery({
    queryKey: key,
    queryFn: () => told<ReleaseView[]>(api.GET('/api/figures/{number}/releases', { params: { path } })),
  });
  const make = useMutation({
    mutationFn: async () => {
      const done = await ended(
        await told<JobView>(api.POST('/api/figures/{number}/releases', { params: { path } })),
      );
      if (done.state !== 'done') throw new Error(done.error || 'Packing was stopped; nothing was written.');
      await client.invalidateQueries({ queryKey: key });
      return done;
    },
  });
  const open = build.findings;
  const stops = open.filter((finding) => finding.severity === 'stop').length;
  const { unseen } = build;
  return (
    <>
      <h2>
        {stops
          ? `${count(stops, 'finding')} would stop a careful release`
          : unseen.length
            ? 'Not all of it was seen'
            : 'Ready to pack'}
      </h2>
      <p className="why">
        Packs the figure as STL and 3MF at print size, the recipe, a sheet for buyers with cautions, and a
        manifest with the SHA-256 of every file. It says openly that it was not proofed, and names{' '}
        {open.length || unseen.length ? 'what is open' : 'that nothing is open'}.
      </p>
      <button className="ruled" disabled={make.isPending || acts.stale} onClick={() => make.mutate()}>
        {make.isPending ? 'Packing …' : 'Pack a release'}
      </button>
      {acts.stale && <p className="soft">Wait until the figure is checked.</p>}
      {make.isError && <p className="error">{make.error.message}</p>}
      {releases.isError && <p className="error">{releases.error.message}</p>}
      <ul className="plain-list" aria-label="Releases">
        {releases.data?.map((release) => (
          <li key={release.id}>
            <a href={`/api/releases/${release.id}.zip`} download={release.file_name}>
              {release.file_name}
            </a>
            , {bytes(release.zip_bytes)}, {release.files.length} files{' '}
            <span className="soft">{new Date(release.made).toLocaleString()}</span>
          </li>
        ))}
      </ul>
      <p className="soft" style={{ margin: '10px 0' }}>
        For your own work:{' '}
        <a href={`/api/figures/${page.id}/walls.zip`} download>
          the walls in their tints
        </a>
        , as drawn here, an OBJ with texture that lies over your sculpt.
      </p>
      {open.length + unseen.length > 0 && <h3>Named in it</h3>}
      <ul className="plain-list">
        {unseen.map((gap) => (
          <li key={gap.part + gap.why}>{gap.why}</li>
        ))}
        {open.slice(0, 40).map((finding, k) => (
          <li key={k}>
            <Mark severity={finding.severity} /> {finding.title}
          </li>
        ))}
        {open.length > 40 && <li className="soft">and {count(open.length - 40, 'more', 'more')}</li>}
      </ul>
      <h3>Cautions that go with it</h3>
      <ul className="plain-list">
        {page.cautions.map((caution) => (
          <li key={caution}>{caution}</li>
        ))}
      </ul>
    </>
  );
}

/** A station that is not built. */
export function UnsurveyedPanel() {
  return (
    <>
      <h2>Not surveyed yet</h2>
      <p>
        This station is not built. Nothing was checked or changed here, and a release says nothing about it.
      </p>
    </>
  );
}
