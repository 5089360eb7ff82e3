import { useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { useDecisions } from '../../decisions/context.ts';
import { PageName } from '../../parts/PageName.tsx';
import { Panel } from '../../parts/Panel.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { TargetField } from '../../parts/TargetField.tsx';
import { count } from '../../parts/words.ts';
import { type Place, usePlaces } from './useAnchors.ts';
import type { AnchorRow } from './wish.ts';

interface Props {
  site: number;
  rows: readonly AnchorRow[];
  close: () => void;
}

/** The links that say a text, or several, each in its sentence, with the mending in place. */
export function AnchorPlaces({ site, rows, close }: Props) {
  const { total, places, isLooking, error, retry, more, isMoreComing } = usePlaces(
    site,
    rows.map((row) => row.key),
  );
  const { decide, hidden } = useDecisions();
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const open = places.filter((place) => canMend(place) && !hidden.has(keyOf(place)));
  const kept = open.filter((place) => !leftOut.has(keyOf(place)));
  const mend = (which: readonly Place[], target: Schema['TargetWish'] | null) =>
    decide(
      {
        kind: 'mend',
        links: which.map((place) => ({
          source: place.page.number,
          version: place.version ?? '',
          link: place.link ?? 0,
        })),
        target,
      },
      which.length === 1 ? (which[0]?.sentence.anchor ?? '') : count(which.length, 'link'),
      which.map(keyOf),
    );
  const toggle = (key: string) => {
    const after = new Set(leftOut);
    if (!after.delete(key)) {
      after.add(key);
    }
    setLeftOut(after);
  };
  const [first] = rows;
  return (
    <section
      aria-label="Links that say it"
      className="flex min-h-[20rem] min-w-0 flex-col border-base-300 bg-base-100 max-lg:border-t lg:w-[26rem] lg:border-l"
    >
      <header className="border-b border-base-300 bg-base-200 px-4 py-2">
        <p className="flex items-start gap-2">
          <strong className="min-w-0 flex-1 break-words font-serif text-base">
            {rows.length === 1 ? first?.text || 'Links that say nothing' : count(rows.length, 'text')}
          </strong>
          <button type="button" className="btn btn-xs btn-ghost" aria-label="Close" onClick={close}>
            ×
          </button>
        </p>
        {rows.length === 1 && first && first.faults.length > 0 && (
          <ul className="text-accent">
            {first.faults.map((fault) => (
              <li key={fault}>{sentence(fault)}</li>
            ))}
          </ul>
        )}
        {total !== undefined && (
          <p className="figures text-secondary" role="status">
            {total === 0 ? 'Only links in menus and footers say it.' : `${count(total, 'link')} in content.`}
          </p>
        )}
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto">
        {error && (
          <p role="alert" className="px-4 py-3">
            <span className="font-semibold text-accent">{error.message}</span>{' '}
            <button type="button" className="link link-primary" onClick={retry}>
              Try again
            </button>
          </p>
        )}
        {isLooking && (
          <p className="px-4 py-3 text-secondary" role="status">
            Looking
          </p>
        )}
        <ul>
          {places.map((place) => (
            <PlaceLine
              key={`${keyOf(place)} ${place.address} ${place.sentence.before}`}
              site={site}
              place={place}
              isOnItsWay={hidden.has(keyOf(place))}
              isKept={!leftOut.has(keyOf(place))}
              toggle={() => toggle(keyOf(place))}
              takeOff={() => mend([place], null)}
            />
          ))}
        </ul>
        {more && (
          <p className="px-4 py-3">
            <button
              type="button"
              className="btn btn-sm btn-ghost border-base-300"
              disabled={isMoreComing}
              onClick={more}
            >
              Show more links
            </button>
          </p>
        )}
      </div>
      {open.length > 0 && (
        <footer className="flex flex-wrap items-center gap-2 border-t border-base-300 bg-base-200 px-4 py-2">
          <span className="figures font-semibold">{count(kept.length, 'link')}:</span>
          <LeadElsewhere site={site} isOff={kept.length === 0} choose={(target) => mend(kept, target)} />
          <button
            type="button"
            className="btn btn-sm btn-ghost border-base-300"
            disabled={kept.length === 0}
            onClick={() => mend(kept, null)}
          >
            Take off
          </button>
        </footer>
      )}
    </section>
  );
}

function canMend(place: Place): boolean {
  return place.version !== null && place.version !== undefined && !place.is_picture && !place.is_planned;
}

function keyOf(place: Place): string {
  return `anchor-${place.page.number}-${place.link ?? 'around'}`;
}

function sentence(fault: string): string {
  return `${fault.charAt(0).toUpperCase()}${fault.slice(1)}.`;
}

function LeadElsewhere(props: { site: number; isOff: boolean; choose: (target: Schema['TargetWish']) => void }) {
  if (props.isOff) {
    return null;
  }
  return (
    <Panel name="Lead elsewhere …" alignRight>
      {(close) => (
        <div className="w-96 p-3">
          <TargetField
            site={props.site}
            choose={(target) => {
              close();
              props.choose(target);
            }}
          />
        </div>
      )}
    </Panel>
  );
}

interface LineProps {
  site: number;
  place: Place;
  isOnItsWay: boolean;
  isKept: boolean;
  toggle: () => void;
  takeOff: () => void;
}

function PlaceLine({ site, place, isOnItsWay, isKept, toggle, takeOff }: LineProps) {
  const { page, sentence: said, to, address } = place;
  const isOpen = canMend(place) && !isOnItsWay;
  const words = said.anchor || 'nothing';
  return (
    <li className="flex items-start gap-2 border-b border-base-300 px-4 py-1.5" data-testid="anchor-place">
      <span className="w-5 shrink-0">
        {isOpen && (
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={isKept}
            onChange={toggle}
            aria-label={`Include ${words} on ${page.title}`}
          />
        )}
      </span>
      <div className="min-w-0 flex-1">
        <p className="title-link truncate">
          <PageName site={site} page={page} />
        </p>
        <p className={isOnItsWay || place.is_planned ? 'opacity-60' : ''}>
          <SentenceText sentence={said} carries="existing" />
        </p>
        <p className="break-words text-xs text-secondary">
          → {to ? <PageName site={site} page={to} /> : <span className="break-all">{address}</span>}
          {(isOnItsWay || place.is_planned) && ' · changed in the tray'}
          {place.is_picture && ' · on a picture'}
          {place.version === null && ' · in no text of the page’s own'}
        </p>
      </div>
      {isOpen && (
        <button
          type="button"
          className="btn btn-xs btn-ghost font-normal"
          aria-label={`Take off: ${words} on ${page.title}`}
          onClick={takeOff}
        >
          Take off
        </button>
      )}
    </li>
  );
}
