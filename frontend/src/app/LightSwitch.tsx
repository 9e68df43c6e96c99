import { turnLight, useLight } from './light';

/** Changes between day chart and night chart; the key N does the same. */
export function LightSwitch() {
  const light = useLight();
  return (
    <button className="plain soft" onClick={turnLight} title="Key N">
      {light === 'day' ? 'Night chart' : 'Day chart'}
    </button>
  );
}
