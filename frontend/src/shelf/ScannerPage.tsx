import TextField from '@mui/material/TextField';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type JobView, type ScannerView } from '../app/client';
import { JobLine } from '../app/JobLine';
import { ended } from '../app/jobs';
import { turnLight } from '../app/light';
import { count } from '../app/units';
import { useKeys } from '../app/useKeys';
import { SheetHead } from './SheetHead';
import { ChoiceField } from '../stations/Fields';

const ROUND = 150;

/** The simulated scanner: what stands on its turntable, and from where it is looked at. */
export default function ScannerPage() {
  const scanner = useQuery({
    queryKey: ['scanner'],
    queryFn: () => dataOf<ScannerView>(api.GET('/api/scanner')),
    staleTime: Infinity,
  });
  useKeys({ n: turnLight });
  return (
    <div className="page">
      <SheetHead name="Scan an object" />
      <main className="sheet">
        <ErrorLine says={scanner.error?.message} />
        {scanner.isPending && <p className="empty soft">Waking the scanner …</p>}
        {scanner.data && <Scanner scanner={scanner.data} />}
      </main>
    </div>
  );
}

function Scanner({ scanner }: { scanner: ScannerView }) {
  const [thing, setThing] = useState(Object.keys(scanner.objects)[0] ?? '');
  const [steps, setSteps] = useState(String(scanner.settings.steps ?? 8));
  const [tilts, setTilts] = useState((scanner.settings.tilts ?? []).join(', '));
  const [distance, setDistance] = useState(String(scanner.settings.distance ?? 420));
  const [noise, setNoise] = useState(String(scanner.settings.noise ?? 0.05));
  const [job, setJob] = useState<JobView | null>(null);
  const client = useQueryClient();
  const navigate = useNavigate();
  const looks = tilts
    .split(/[,; ]+/)
    .filter(Boolean)
    .map(Number);
  const stops = Number(steps);
  const scan = useMutation({
    mutationFn: async () => {
      const settings = {
        steps: stops,
        tilts: looks,
        distance: Number(distance),
        noise: Number(noise),
        seed: 7,
      };
      const begun = await dataOf<JobView>(
        api.POST('/api/scans', { body: { object: thing, name: '', settings } }),
      );
      setJob(begun);
      const done = await ended(begun);
      if (done.state === 'failed') throw new Error(done.error);
      if (done.state !== 'done') throw new Error('The scan was stopped; nothing was kept of it.');
      await client.invalidateQueries({ queryKey: ['shelf'] });
      return done;
    },
    onSuccess: (done) => void navigate(`/figures/${done.made.figure as number}/bring-in`),
    onSettled: () => setJob(null),
  });
  const usable = looks.length > 0 && looks.every(Number.isFinite) && Number.isInteger(stops) && stops >= 3;
  return (
    <div className="scanner">
      <section aria-label="The scan">
        <h2>On the turntable</h2>
        <div className="fields">
          <ChoiceField
            label="Object on the turntable"
            value={thing}
            options={Object.entries(scanner.objects).map(([key, name]) => [key, name] as const)}
            change={setThing}
          />
          <TextField
            label="Stops in one round"
            value={steps}
            error={!(Number.isInteger(stops) && stops >= 3 && stops <= 72)}
            helperText="3 to 72"
            onChange={(event) => setSteps(event.target.value)}
          />
          <TextField
            label="Looking down by, degrees"
            value={tilts}
            error={!looks.length || !looks.every(Number.isFinite)}
            helperText="one round each, with commas between"
            onChange={(event) => setTilts(event.target.value)}
          />
          <TextField
            label="Distance, mm"
            value={distance}
            helperText="200 to 900"
            onChange={(event) => setDistance(event.target.value)}
          />
          <TextField
            label="Noise along the line of sight, mm"
            value={noise}
            helperText="standard deviation, 0 to 2"
            onChange={(event) => setNoise(event.target.value)}
          />
        </div>
        <p>
          <button className="ruled" disabled={!usable || scan.isPending} onClick={() => scan.mutate()}>
            {scan.isPending
              ? 'Scanning …'
              : `Scan it in ${count(looks.length * stops || 0, 'pass', 'passes')}`}
          </button>{' '}
          {job && <JobLine job={job} />}
        </p>
        <p className="error" role="alert">
          {scan.error?.message}
        </p>
        <p className="soft">
          {scanner.device}: sees objects from {scanner.smallest_mm} to {scanner.largest_mm} mm. It leaves
          shadows and holes where neither its lamp nor its eye reaches, strays, and a turntable a little out
          of true, as such devices do. Do not look into the light of a real one.
        </p>
      </section>
      <Looks tilts={usable ? looks : []} stops={usable ? Math.min(stops, 72) : 0} />
    </div>
  );
}

/** From where the object is looked at: the turntable from above, a ring for every tilt, steep ones nearer the middle. */
function Looks({ tilts, stops }: { tilts: number[]; stops: number }) {
  const says = `The turntable from above: ${count(stops, 'stop')} on ${count(tilts.length, 'ring')}.`;
  return (
    <svg viewBox="-190 -190 380 380" className="looks" role="img" aria-label={says}>
      <circle r="44" className="table" />
      <path d="M-44 0H44M0-44V44" className="axis" />
      {tilts.map((tilt, ring) => {
        const reach = 58 + (ROUND - 58) * Math.cos((Math.max(0, Math.min(85, tilt)) * Math.PI) / 180);
        return (
          <g key={`${tilt} ${ring}`}>
            <circle r={reach} className="ring" />
            <text x="4" y={-reach - 5}>
              {tilt}°
            </text>
            {Array.from({ length: stops }, (_, k) => {
              const turn = (k / stops) * 2 * Math.PI + Math.PI / 2;
              const [x, y] = [reach * Math.cos(turn), reach * Math.sin(turn)];
              return (
                <path
                  key={k}
                  className="look"
                  transform={`translate(${x.toFixed(1)},${y.toFixed(1)}) rotate(${(turn * 180) / Math.PI})`}
                  d="M-7 0 5-4V4Z"
                />
              );
            })}
          </g>
        );
      })}
    </svg>
  );
}
