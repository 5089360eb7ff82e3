import { Check } from '../../parts/Check.tsx';
import type { Draft } from './ruleDraft.ts';
import { Checks, Count, Line, Lines } from './ruleFields.tsx';

interface Props {
  draft: Draft;
  change: (part: Partial<Draft>) => void;
}

/** How often a rule links, and what its links say beside where they lead. */
export function RuleHowOften({ draft, change }: Props) {
  return (
    <details>
      <summary className="cursor-pointer font-semibold">How often, and what the links say</summary>
      <div className="mt-2 flex flex-col gap-3">
        <p className="figures leading-8">
          In{' '}
          <Count
            label="Percent of the places"
            value={Math.round(draft.share * 100)}
            least={0}
            most={100}
            set={(percent) => change({ share: percent / 100 })}
          />{' '}
          % of the places; up to{' '}
          <Count
            label="Words between two words of a phrase"
            value={draft.gap}
            least={0}
            most={10}
            set={(gap) => change({ gap })}
          />{' '}
          other words may stand within a phrase; priority{' '}
          <Count
            label="Priority"
            value={draft.priority}
            least={-1000}
            most={1000}
            set={(priority) => change({ priority })}
          />
          .
        </p>
        <p className="figures leading-8">
          At most{' '}
          <Count
            label="Links in a sentence, 0 for as many as all rules may"
            value={draft.per_sentence ?? 0}
            least={0}
            most={20}
            set={(most) => change({ per_sentence: most || null })}
          />{' '}
          links in a sentence (0 for as many as all rules may).
        </p>
        <p className="figures leading-8">
          On the whole site at most{' '}
          <Count
            label="Links on the whole site, 0 for any number"
            value={draft.in_total ?? 0}
            least={0}
            most={1_000_000}
            set={(total) => change({ in_total: total || null })}
          />{' '}
          links (0 for any number).
          {draft.in_total !== null &&
            ' Pages that pass through an edge know nothing of each other, so they get none of these links.'}
        </p>
        <Checks>
          <Check
            label="leaves pages alone that lead there already"
            isOn={draft.skips_linked_pages}
            set={(skips_linked_pages) => change({ skips_linked_pages })}
          />
          <Check
            label="counts links there that it did not make"
            isOn={draft.counts_other_links}
            set={(counts_other_links) => change({ counts_other_links })}
          />
          <Check
            label="may lead back to a page that links here"
            isOn={draft.links_back}
            set={(links_back) => change({ links_back })}
          />
          <Check label="nofollow" isOn={draft.nofollow} set={(nofollow) => change({ nofollow })} />
          <Check label="sponsored" isOn={draft.sponsored} set={(sponsored) => change({ sponsored })} />
          <Check label="ugc" isOn={draft.ugc} set={(ugc) => change({ ugc })} />
          <Check label="opens in a new tab" isOn={draft.new_tab} set={(new_tab) => change({ new_tab })} />
        </Checks>
        <Line label="Title of the links" value={draft.title ?? ''} set={(title) => change({ title: title || null })} />
        <Line label="Class of the links" value={draft.class ?? ''} set={(text) => change({ class: text || null })} />
        <Line
          label="A data attribute of the links (data-name=value), by which scripts know them"
          value={draft.data ?? ''}
          set={(data) => change({ data: data || null })}
        />
        <Lines
          label="Parameters for other sites"
          placeholder="from=guides"
          value={draft.tracking}
          set={(tracking) => change({ tracking })}
        />
      </div>
    </details>
  );
}
