import { number } from '../parts/words.ts';
import { useSiteStatus } from './useSite.ts';

/** How far a reading has come, or why the last one broke off. */
export function ReadingStrip() {
  const reading = useSiteStatus().data?.reading;
  if (!reading) {
    return null;
  }
  if (reading.phase === 'failed' || (reading.phase === 'done' && reading.message)) {
    return (
      <p className="bg-warning px-4 py-1 text-warning-content" role="alert">
        {reading.phase === 'failed' ? 'The site could not be read to the end: ' : ''}
        {reading.message}
      </p>
    );
  }
  if (reading.phase === 'done') {
    return null;
  }
  const known = Math.max(reading.known, reading.done);
  return (
    <div className="figures flex items-center gap-3 border-b border-base-300 bg-depth-0 px-4 py-1" role="status">
      <span>
        {reading.phase === 'waiting' || known === 0
          ? 'Reading the site: looking at the entry page and the sitemap'
          : `Reading the site: ${number(reading.done)} of ${number(known)} addresses known so far`}
      </span>
      <progress
        className="progress progress-primary w-60"
        aria-label="Progress of the reading"
        max={Math.max(known, 1)}
        value={reading.done}
      />
    </div>
  );
}
