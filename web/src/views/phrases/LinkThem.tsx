import type { Schema } from '../../api/client.ts';
import { Panel } from '../../parts/Panel.tsx';
import { TargetField } from '../../parts/TargetField.tsx';
import { count } from '../../parts/words.ts';
import { bestOfEach, type FreeMention } from './selected.ts';

export interface Target {
  target: Schema['TargetWish'];
  name: string;
}

interface Props {
  site: number;
  /** Mentions in view that could carry a link, and how many of them are selected. */
  free: readonly FreeMention[];
  chosen: number;
  select: (keys: readonly string[]) => void;
  target: Target | undefined;
  setTarget: (target: Target) => void;
  take: () => void;
}

/** Links on the selected mentions. */
export function LinkThem({ site, free, chosen, select, target, setTarget, take }: Props) {
  return (
    <footer className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-base-300 bg-base-200 px-4 py-2">
      <span className="figures font-semibold">{chosen === 0 ? 'None selected' : `${chosen} selected`}</span>
      <span className="flex gap-3">
        <Press name="The best of each page" press={() => select(bestOfEach(free))} />
        <Press name={`All ${free.length} shown`} press={() => select(free.map((one) => one.key))} />
        {chosen > 0 && <Press name="None" press={() => select([])} />}
      </span>
      <span className="ml-auto flex items-center gap-2">
        <ChooseTarget site={site} target={target} set={setTarget} />
        <button
          type="button"
          className="btn btn-sm btn-primary whitespace-nowrap"
          disabled={chosen === 0 || !target}
          onClick={take}
        >
          Take {chosen === 1 ? 'the link' : count(chosen, 'link')}
        </button>
      </span>
    </footer>
  );
}

function Press({ name, press }: { name: string; press: () => void }) {
  return (
    <button type="button" className="text-primary underline" onClick={press}>
      {name}
    </button>
  );
}

function ChooseTarget({ site, target, set }: { site: number; target: Target | undefined; set: Props['setTarget'] }) {
  return (
    <Panel name={target ? `Lead to ${shortened(target.name)}` : 'Lead them to …'} alignRight>
      {(close) => (
        <div className="w-96 p-3">
          <TargetField
            site={site}
            choose={(chosen, name) => {
              set({ target: chosen, name });
              close();
            }}
          />
        </div>
      )}
    </Panel>
  );
}

function shortened(name: string): string {
  return name.length > 36 ? `${name.slice(0, 35)}…` : name;
}
