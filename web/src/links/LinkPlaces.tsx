import { useState } from 'react';
import type { Schema } from '../api/client.ts';
import { useDecisions } from '../decisions/context.ts';
import { say } from '../parts/notices.ts';
import { PageName } from '../parts/PageName.tsx';
import { Panel } from '../parts/Panel.tsx';
import { SentenceText } from '../parts/SentenceText.tsx';
import { TargetField } from '../parts/TargetField.tsx';
import { count } from '../parts/words.ts';
import { type Asked, canMend, keyOf, MOST_MENDED, type Place, placesFrom, useLinkPlaces } from './useLinkPlaces.ts';

interface Props {
  site: number;
  asked: Asked;
  title: string;
  /** What is wrong with them, in sentences. */
  whys?: readonly string[];
  /** What all their addresses begin with, where they can be swapped. */
  beginning?: string;
  /** Whether what they say of how they are followed is shown and set. */
  showsManner?: boolean;
  close: () => void;
}

/** Links in their sentences, with the mending in place: of one, or of all that are not left out. */
export function LinkPlaces({ site, asked, title, whys = [], beginning, showsManner = false, close }: Props) {
  const { total, places, isLooking, error, retry, more, isMoreComing } = useLinkPlaces(site, asked);
  const { decide, hidden } = useDecisions();
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const [isGathering, setIsGathering] = useState(false);
  const isOpen = (place: Place) => canMend(place) && !hidden.has(keyOf(place));
  const isKept = (place: Place) => isOpen(place) && !leftOut.has(keyOf(place));
  const kept = places.filter(isKept).length;
  const unseen = Math.min((total ?? 0) - places.length, MOST_MENDED);
  const mend = (which: readonly Place[], becomes: Schema['Becomes']) =>
    decide(
      {
        kind: 'mend',
        links: which.map(({ page, version, link }) => ({
          source: page.number,
          version: version ?? '',
          link: link ?? 0,
        })),
        becomes,
      },
      which.length === 1 ? (which[0]?.sentence.anchor ?? '') : count(which.length, 'link'),
      which.map(keyOf),
    );
  const mendAll = async (becomes: Schema['Becomes']) => {
    setIsGathering(true);
    try {
      const others = unseen > 0 ? await placesFrom(site, asked, places.length) : [];
      mend([...places, ...others].filter(isKept).slice(0, MOST_MENDED), becomes);
    } catch (problem) {
      say({ text: `The links could not be gathered: ${(problem as Error).message}`, isError: true });
    } finally {
      setIsGathering(false);
    }
  };
  const toggle = (key: string) => {
    const after = new Set(leftOut);
    if (!after.delete(key)) {
      after.add(key);
    }
    setLeftOut(after);
  };
  return (
    <section
      aria-label="Links"
      className="flex min-h-[20rem] min-w-0 flex-col border-base-300 bg-base-100 max-lg:border-t lg:w-[26rem] lg:border-l"
    >
      <header className="border-b border-base-300 bg-base-200 px-4 py-2">
        <p className="flex items-start gap-2">
          <strong className="min-w-0 flex-1 break-words font-serif text-base">{title}</strong>
          <button type="button" className="btn btn-xs btn-ghost" aria-label="Close" onClick={close}>
            ×
          </button>
        </p>
        {whys.length > 0 && (
          <ul className="text-accent">
            {whys.map((why) => (
              <li key={why}>{sentence(why)}</li>
            ))}
          </ul>
        )}
        {total !== undefined && (
          <p className="figures text-secondary" role="status">
            {total === 0 ? 'All of them stand in menus and footers.' : `${count(total, 'link')} in content.`}
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
              showsManner={showsManner}
              takeOff={() => mend([place], { kind: 'off' })}
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
      {(places.some(isOpen) || unseen > 0) && (
        <footer className="flex flex-wrap items-center gap-2 border-t border-base-300 bg-base-200 px-4 py-2">
          <span className="figures font-semibold">{count(kept + Math.max(unseen, 0), 'link')}:</span>
          {!isGathering && kept + unseen > 0 && (
            <>
              <LeadElsewhere site={site} beginning={beginning} choose={(becomes) => void mendAll(becomes)} />
              {showsManner && <LetThemSay choose={(becomes) => void mendAll(becomes)} />}
              <button
                type="button"
                className="btn btn-sm btn-ghost border-base-300"
                onClick={() => void mendAll({ kind: 'off' })}
              >
                Take off
              </button>
            </>
          )}
          {isGathering && <span className="text-secondary">Gathering all of them</span>}
        </footer>
      )}
    </section>
  );
}

function sentence(fault: string): string {
  return `${fault.charAt(0).toUpperCase()}${fault.slice(1)}.`;
}

interface ChooseProps {
  choose: (becomes: Schema['Becomes']) => void;
}

function LeadElsewhere({ site, beginning, choose }: ChooseProps & { site: number; beginning: string | undefined }) {
  return (
    <Panel name="Lead elsewhere …" alignRight>
      {(close) => (
        <div className="w-96 p-3">
          <TargetField
            site={site}
            choose={(target) => {
              close();
              choose({ kind: 'leads', target });
            }}
          />
          {beginning !== undefined && (
            <SwapForm
              beginning={beginning}
              choose={(becomes) => {
                close();
                choose(becomes);
              }}
            />
          )}
        </div>
      )}
    </Panel>
  );
}

/** Another beginning for all addresses, after which each stays as it is. */
function SwapForm({ beginning, choose }: ChooseProps & { beginning: string }) {
  const [from, setFrom] = useState(beginning);
  const [to, setTo] = useState('');
  const isWhole = from.trim() !== '' && /^https?:\/\/\S+$/i.test(to.trim());
  return (
    <form
      className="mt-3 flex flex-col gap-2 border-t border-base-300 pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        choose({ kind: 'swap', from: from.trim(), to: to.trim() });
      }}
    >
      <p className="font-semibold">Or swap how the addresses begin</p>
      <label className="flex flex-col text-xs text-secondary">
        What they begin with
        <input className="input input-sm w-full" value={from} onChange={(event) => setFrom(event.target.value)} />
      </label>
      <label className="flex flex-col text-xs text-secondary">
        What comes in its place; the rest of each address stays
        <input
          className="input input-sm w-full"
          placeholder="https://"
          value={to}
          onChange={(event) => setTo(event.target.value)}
        />
      </label>
      <button type="submit" className="btn btn-sm btn-primary self-end" disabled={!isWhole}>
        Swap
      </button>
    </form>
  );
}

type Manner = 'follow' | 'nofollow' | 'sponsored' | 'ugc' | 'new_tab' | 'same_tab';

const MANNERS: Record<Manner, { name: string; says: Omit<Extract<Schema['Becomes'], { kind: 'says' }>, 'kind'> }> = {
  nofollow: { name: 'Search engines are not to follow them (nofollow)', says: { nofollow: true } },
  sponsored: { name: 'They are paid for (sponsored)', says: { sponsored: true } },
  ugc: { name: 'Users of the site wrote them (ugc)', says: { ugc: true } },
  follow: { name: 'None of these', says: { nofollow: false, sponsored: false, ugc: false } },
  new_tab: { name: 'They open in a new tab (with noopener)', says: { new_tab: true } },
  same_tab: { name: 'They open in the same tab', says: { new_tab: false } },
};

function LetThemSay({ choose }: ChooseProps) {
  return (
    <Panel name="Say …" alignRight>
      {(close) => (
        <ul className="w-80 p-2">
          {(Object.keys(MANNERS) as Manner[]).map((manner) => (
            <li key={manner}>
              <button
                type="button"
                className="btn btn-sm btn-ghost w-full justify-start font-normal"
                onClick={() => {
                  close();
                  choose({ kind: 'says', ...MANNERS[manner].says });
                }}
              >
                {MANNERS[manner].name}
              </button>
            </li>
          ))}
        </ul>
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
  showsManner: boolean;
  takeOff: () => void;
}

function PlaceLine({ site, place, isOnItsWay, isKept, toggle, showsManner, takeOff }: LineProps) {
  const { page, sentence: said, to, address } = place;
  const isOpen = canMend(place) && !isOnItsWay;
  const words = said.anchor || 'nothing';
  return (
    <li className="flex items-start gap-2 border-b border-base-300 px-4 py-1.5" data-testid="link-place">
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
          {showsManner && mannerOf(place.says)}
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

/** What it says of how it is followed, in its own words. */
function mannerOf({ nofollow, sponsored, ugc, new_tab: isNewTab }: Place['says']): string {
  const said = [nofollow && 'nofollow', sponsored && 'sponsored', ugc && 'ugc', isNewTab && 'new tab'].filter(Boolean);
  return said.map((one) => ` · ${one}`).join('');
}
