import type { StationFolder } from '../station';

/** Mend: whether the mesh is one that can be printed. What can be done is offered by what is found. */
export const station: StationFolder = {
  id: 'mend',
  Report: ({ build }) =>
    build.findings.some((finding) => finding.station === 'mend') ? (
      <p className="why">What can be mended is offered by each finding.</p>
    ) : (
      <>
        <h2>Nothing to mark here</h2>
        <p>
          The surface closes, no edge has more than two faces, every shell looks outward, and no face is flat
          or doubled.
        </p>
      </>
    ),
};
