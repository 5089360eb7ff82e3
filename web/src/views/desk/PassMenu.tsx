import { type KeyboardEvent, useEffect, useRef } from 'react';
import type { Scope } from './useDesk.ts';

interface Props {
  /** The title of the page to which the opening leads. */
  target: string;
  pass: (scope: Scope) => void;
  close: () => void;
}

/** How much is passed. */
export function PassMenu({ target, pass, close }: Props) {
  const first = useRef<HTMLButtonElement>(null);
  useEffect(() => first.current?.focus(), []);
  const scopes: [Scope, string][] = [
    ['place', 'These words here'],
    ['pair', 'All places on this page'],
    ['page', `All pages: nothing more to “${target}”`],
  ];
  const press = (event: KeyboardEvent<HTMLDivElement>) => {
    const scope = scopes[Number(event.key) - 1];
    if (event.key === 'Escape') {
      close();
    } else if (scope) {
      pass(scope[0]);
    } else {
      return;
    }
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys are those of the buttons inside
    <div
      data-testid="pass-scopes"
      className="mt-2 flex flex-col gap-1 border-t border-base-300 pt-1.5"
      onKeyDown={press}
    >
      <p className="text-xs font-semibold text-secondary">Set aside for good (it can be brought back):</p>
      {scopes.map(([scope, words], at) => (
        <button
          key={scope}
          ref={at === 0 ? first : null}
          type="button"
          className="btn btn-xs btn-ghost h-auto justify-start border-base-300 py-1 text-left"
          onClick={() => pass(scope)}
        >
          <kbd className="kbd kbd-xs">{at + 1}</kbd>
          {words}
        </button>
      ))}
    </div>
  );
}
