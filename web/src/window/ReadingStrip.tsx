import { type ReactNode, useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../api/client.ts';
import { LostPages } from '../parts/LostPages.tsx';
import { count, duration, number } from '../parts/words.ts';
import { useReadings } from './actions.ts';
import { useSite, useSiteStatus } from './useSite.ts';

type Reading = Schema['ReadingStatus'];

/** How far a reading has come, or why the last one stands still. */
export function ReadingStrip() {
  const site = useSite();
  const reading = useSiteStatus().data?.reading;
  const [closed, setClosed] = useState(0);
  if (!reading) {
    return null;
  }
  switch (reading.phase) {
    case 'done':
      return reading.message && closed !== reading.reading ? (
        <Standing site={site} text={reading.message} close={() => setClosed(reading.reading)} />
      ) : null;
    case 'stopped':
      return (
        <Standing
          site={site}
          text={`The reading was stopped after ${count(reading.done, 'address', 'addresses')}.`}
          goesOn
        />
      );
    case 'asking':
      return (
        <Standing
          site={site}
          text={/^[^.]+\./.exec(reading.message ?? '')?.[0] ?? 'Many pages were not found.'}
          isError
        >
          <LostPages site={site} reading={reading.reading} />
        </Standing>
      );
    case 'failed':
      return (
        <Standing site={site} text={`The site was not read to the end. ${reading.message ?? ''}`} goesOn isError />
      );
    default:
      return <UnderWay site={site} reading={reading} />;
  }
}

interface StandingProps {
  site: number;
  text: string;
  goesOn?: boolean;
  isError?: boolean;
  close?: () => void;
  children?: ReactNode;
}

function Standing({ site, text, goesOn = false, isError = false, close, children }: StandingProps) {
  const readings = useReadings(site);
  return (
    <div
      className="flex flex-wrap items-center gap-x-3 gap-y-1 bg-warning px-4 py-1 text-warning-content"
      role={isError ? 'alert' : 'status'}
    >
      <span>{text}</span>
      {goesOn && (
        <button type="button" className="underline" onClick={() => readings.goOn.mutate()}>
          Go on
        </button>
      )}
      {children}
      <Link className="underline" to={`/${site}/history?show=readings`}>
        See what was found
      </Link>
      {close && (
        <button type="button" className="ml-auto px-2" aria-label="Close this notice" onClick={close}>
          ×
        </button>
      )}
    </div>
  );
}

function UnderWay({ site, reading }: { site: number; reading: Reading }) {
  const { stop } = useReadings(site);
  const known = Math.max(reading.known, reading.done);
  return (
    <section
      aria-label="Reading under way"
      className="figures flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-base-300 bg-depth-0 px-4 py-1 text-depth-ink-0"
    >
      <span data-testid="reading">{said(reading)}</span>
      <progress
        className="progress progress-primary w-40"
        aria-label="Progress of the reading"
        max={Math.max(known, 1)}
        value={reading.done}
      />
      <span>
        {reading.rate ? `${number(Math.round(reading.rate * 10) / 10)} a second` : ''}
        {reading.seconds_left ? `, about ${duration(reading.seconds_left)} left` : ''}
      </span>
      {reading.message && <span className="font-semibold">{reading.message}</span>}
      <button
        type="button"
        className="btn btn-xs btn-ghost ml-auto border-current"
        disabled={reading.phase === 'stopping' || stop.isPending}
        onClick={() => stop.mutate()}
      >
        Stop
      </button>
      <Milestones reading={reading} />
    </section>
  );
}

function said(reading: Reading): string {
  const known = Math.max(reading.known, reading.done);
  if (reading.phase === 'stopping') {
    return 'Stopping the reading: keeping what is on its way';
  }
  if (reading.phase === 'waiting') {
    return 'The reading waits for a worker';
  }
  return known === 0
    ? 'Reading the site: looking at the entry page and the sitemap'
    : `Reading the site: ${number(reading.done)} of ${number(known)} addresses known so far`;
}

/** Every tenth is read out, not every address. */
function Milestones({ reading }: { reading: Reading }) {
  const tenths = reading.known > 0 ? Math.floor((10 * reading.done) / Math.max(reading.known, reading.done)) : 0;
  const [text, setText] = useState('');
  useEffect(
    () => setText(tenths > 0 ? `${tenths * 10} percent of the addresses are read` : 'Reading the site'),
    [tenths],
  );
  return (
    <span className="sr-only" role="status">
      {text}
    </span>
  );
}
