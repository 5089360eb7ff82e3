// Click depth as a sounding: the deeper, the darker; out of reach is a buoy.

const TINTS = [
  'bg-depth-0 text-base-content',
  'bg-depth-1 text-base-content',
  'bg-depth-2 text-base-content',
  'bg-depth-3 text-white',
  'bg-depth-4 text-white',
  'bg-depth-5 text-white',
];

export function Depth({ depth, wordy = false }: { depth: number | null | undefined; wordy?: boolean }) {
  if (depth === null || depth === undefined) {
    return (
      <span className="inline-flex items-center gap-1.5 font-semibold text-accent">
        <svg viewBox="0 0 12 12" className="size-3" aria-hidden="true">
          <path d="M6 0l6 6-6 6-6-6z" fill="currentColor" />
        </svg>
        unreachable
      </span>
    );
  }
  const tint = TINTS[Math.min(depth, TINTS.length - 1)];
  return (
    <span className="inline-flex items-center gap-1.5">
      <span className={`figures inline-block min-w-6 rounded-full px-1.5 py-px text-center font-semibold ${tint}`}>
        {depth}
      </span>
      {wordy && <span>{depth === 1 ? 'click' : 'clicks'} from the entry page</span>}
    </span>
  );
}
