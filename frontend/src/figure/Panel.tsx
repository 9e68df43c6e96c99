import type { Station, Unseen } from '../app/client';
import { BringInPanel } from '../stations/BringInPanel';
import { GaugePanel } from '../stations/GaugePanel';
import { ClearPanel, LayersPanel, ReleasePanel, UnsurveyedPanel } from '../stations/panels';
import { SizePanel } from '../stations/SizePanel';
import { StandPanel } from '../stations/StandPanel';

const CLEAR: Partial<Record<Station, string>> = {
  mend: 'The surface closes, no edge has more than two faces, every shell looks outward, and no face is flat or doubled.',
};

/** The sheet of a station itself, shown where no finding with a place is in focus. */
export function Panel({
  here,
  ...props
}: { here: Station } & React.ComponentProps<typeof BringInPanel> &
  React.ComponentProps<typeof GaugePanel> &
  React.ComponentProps<typeof SizePanel> &
  React.ComponentProps<typeof StandPanel> & { large: boolean }) {
  if (props.build.unseen.some((gap) => gap.station === here)) return null;
  if (here === 'bring-in') return <BringInPanel {...props} />;
  if (here === 'gauge') return <GaugePanel {...props} />;
  if (here === 'size') return <SizePanel {...props} />;
  if (here === 'stand') return <StandPanel {...props} />;
  if (here === 'layers') return <LayersPanel {...props} />;
  if (here === 'release') return <ReleasePanel {...props} />;
  const says = CLEAR[here];
  return says ? <ClearPanel says={says} /> : <UnsurveyedPanel />;
}

/** What could not be looked at here: not the same as nothing found. */
export function Gaps({ unseen }: { unseen: Unseen[] }) {
  return unseen.map((gap) => (
    <section key={gap.part + gap.why}>
      <h2>Not seen</h2>
      <p className="error">{gap.why}</p>
    </section>
  ));
}
