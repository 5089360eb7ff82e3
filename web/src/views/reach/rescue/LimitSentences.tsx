import { type ReactNode, useEffect, useId, useState } from 'react';
import { boundsOf, type Limits } from '../reachWish.ts';

interface Props {
  wish: Limits;
  setWish: (change: Partial<Limits>) => void;
}

/** The limits of a rescue as sentences to fill in. */
export function LimitSentences({ wish, setWish }: Props) {
  return (
    <div className="figures leading-8">
      <p>
        Every page within{' '}
        <Figure label="Clicks at most" value={wish.depth} of="depth" set={(depth) => setWish({ depth })} /> clicks, with
        links in from at least{' '}
        <Figure label="Links in at least" value={wish.linksIn} of="linksIn" set={(linksIn) => setWish({ linksIn })} />{' '}
        {wish.linksIn === 1 ? 'page' : 'pages'}; at most{' '}
        <Figure
          label="New links on a page at most"
          value={wish.perPage}
          of="perPage"
          set={(perPage) => setWish({ perPage })}
        />{' '}
        new {wish.perPage === 1 ? 'link' : 'links'} on a page, of fit{' '}
        <Figure label="Fit at least" value={wish.fit} of="fit" set={(fit) => setWish({ fit })} /> or more.
      </p>
      <details>
        <summary className="cursor-pointer text-secondary">
          More limits
          {[wish.sameCategory, wish.oneWay, wish.equity].some(Boolean) && ' (some are on)'}
        </summary>
        <Check isOn={wish.sameCategory} set={(sameCategory) => setWish({ sameCategory })}>
          links within a category alone
        </Check>
        <Check isOn={wish.oneWay} set={(oneWay) => setWish({ oneWay })}>
          no two pages that point at each other
        </Check>
        <Check isOn={wish.equity} set={(equity) => setWish({ equity })}>
          rather on pages with much link equity
        </Check>
      </details>
    </div>
  );
}

function Check({ isOn, set, children }: { isOn: boolean; set: (isOn: boolean) => void; children: ReactNode }) {
  return (
    <label className="flex items-center gap-2 leading-6">
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={isOn}
        onChange={(event) => set(event.target.checked)}
      />
      {children}
    </label>
  );
}

interface FigureProps {
  label: string;
  value: number;
  of: Parameters<typeof boundsOf>[0];
  set: (value: number) => void;
}

/** How long a typed figure rests before a plan is made for it, in milliseconds. */
const REST = 350;

/** A figure within a sentence. What is out of bounds is put right when the field is left. */
function Figure({ label, value, of, set }: FigureProps) {
  const id = useId();
  const { least, most } = boundsOf(of);
  const [typed, setTyped] = useState(String(value));
  useEffect(() => setTyped(String(value)), [value]);
  const figure = Number(typed);
  const isRight = typed.trim() !== '' && Number.isInteger(figure) && figure >= least && figure <= most;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the setter is another one each time
  useEffect(() => {
    if (!isRight || figure === value) {
      return;
    }
    const timer = window.setTimeout(() => set(figure), REST);
    return () => window.clearTimeout(timer);
  }, [typed]);
  return (
    <input
      id={id}
      type="number"
      aria-label={label}
      aria-invalid={!isRight}
      className={`input input-xs w-14 text-base ${isRight ? '' : 'border-accent'}`}
      min={least}
      max={most}
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={() => {
        if (!isRight) {
          const near = Math.min(most, Math.max(least, Math.round(figure) || least));
          setTyped(String(near));
          set(near);
        }
      }}
    />
  );
}
