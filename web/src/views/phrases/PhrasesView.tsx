import { useMemo, useState } from 'react';
import { useDecisions } from '../../decisions/context.ts';
import { Empty } from '../../parts/states.tsx';
import { count } from '../../parts/words.ts';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { LinkThem, type Target } from './LinkThem.tsx';
import { MentionList } from './MentionList.tsx';
import { PhraseForm } from './PhraseForm.tsx';
import { phrasesOf, useQuestion } from './question.ts';
import { freeOf, linksOf } from './selected.ts';
import { useMentions } from './useMentions.ts';

/** Where the site says something, linked or not. */
export function PhrasesView() {
  const site = useSite();
  const [question, setQuestion] = useQuestion();
  const mentions = useMentions(site, question);
  const { decide, hidden } = useDecisions();
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [target, setTarget] = useState<Target>();
  const free = useMemo(() => freeOf(mentions.pages, hidden), [mentions.pages, hidden]);
  const chosen = useMemo(() => free.filter((one) => selected.has(one.key)), [free, selected]);
  const isAsked = phrasesOf(question).length > 0;
  const take = () => {
    if (!target) {
      return;
    }
    const words = chosen.length === 1 ? (chosen[0]?.mention.sentence.anchor ?? '') : count(chosen.length, 'link');
    decide(
      { kind: 'take', links: linksOf(chosen, target.target) },
      words,
      chosen.map((one) => one.key),
    );
    setSelected(new Set());
  };
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
      </div>
      <div className="flex min-h-0 flex-1 flex-col overflow-y-auto border-t border-base-300 lg:flex-row lg:overflow-hidden">
        <PhraseForm question={question} set={setQuestion} counts={isAsked ? mentions.found?.phrases : undefined} />
        <section
          aria-label="Mentions"
          className="flex min-h-[24rem] min-w-0 flex-1 flex-col border-base-300 bg-base-100 max-lg:border-t lg:min-h-0 lg:border-l"
        >
          {isAsked ? (
            <MentionList
              site={site}
              question={question}
              set={setQuestion}
              mentions={mentions}
              hidden={hidden}
              selected={selected}
              toggle={(key) => setSelected((before) => toggled(before, key))}
            />
          ) : (
            <Empty title="Where does the site say it?">
              Type words on the left, one phrase a line. Every place that says them is shown here in its sentence: those
              that carry a link, and those that could.
            </Empty>
          )}
          {isAsked && free.length > 0 && (
            <LinkThem
              site={site}
              free={free}
              chosen={chosen.length}
              select={(keys) => setSelected(new Set(keys))}
              target={target}
              setTarget={setTarget}
              take={take}
            />
          )}
        </section>
      </div>
    </div>
  );
}

function toggled(before: ReadonlySet<string>, key: string): ReadonlySet<string> {
  const after = new Set(before);
  if (!after.delete(key)) {
    after.add(key);
  }
  return after;
}
