import { count } from '../../app/units';

/** What is ticked before a print is begun. */
export function Ready({
  ready,
  ticked,
  tick,
}: {
  ready: string[];
  ticked: string[];
  tick: (ticked: string[]) => void;
}) {
  return (
    <fieldset className="plain-list">
      <legend>Before the start</legend>
      {ready.map((one) => (
        <p key={one}>
          <label>
            <input
              type="checkbox"
              checked={ticked.includes(one)}
              onChange={({ target }) =>
                tick(target.checked ? [...ticked, one] : ticked.filter((other) => other !== one))
              }
            />{' '}
            {one}
          </label>
        </p>
      ))}
      {ticked.length < ready.length && (
        <p className="soft">
          {count(ready.length - ticked.length, 'thing')} not ticked; that is kept with it
        </p>
      )}
    </fieldset>
  );
}
