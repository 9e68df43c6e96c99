import type { Sheet } from '../figure/sheet';
import type { StationFolder } from '../stations/station';

/** For tests: a station with all it says, and every act open. */
export function WholeStation({ station, sheet }: { station: StationFolder; sheet: Sheet }) {
  const { Report, More, acts } = station;
  return (
    <>
      <Report {...sheet} />
      {acts?.(sheet).map((act) => (
        <div key={act.name}>
          {act.fields ? act.fields(sheet) : <button onClick={act.does}>{act.name}</button>}
        </div>
      ))}
      {More && <More {...sheet} />}
    </>
  );
}
