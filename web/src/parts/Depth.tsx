// Click depth as a sounding: each fathom has its tint; out of reach is a buoy.

const TINTS = [
  'bg-depth-0 text-depth-ink-0',
  'bg-depth-1 text-depth-ink-1',
  'bg-depth-2 text-depth-ink-2',
  'bg-depth-3 text-depth-ink-3',
  'bg-depth-4 text-depth-ink-4',
  'bg-depth-5 text-depth-ink-5',
];

export function Depth({ depth, wordy = false }: { depth: number | null | undefined; wordy?: boolean }) {
  if (depth === null || depth === undefined) {
    return (
      <span className="inline-flex items-center gap-1.5 font-semibold text-accent">
        <svg viewBox="0 0 12 12" className="size-3 shrink-0" aria-hidden="true">
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
