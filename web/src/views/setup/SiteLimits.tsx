import { useMutation, useQuery } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { Check } from '../../parts/Check.tsx';
import { Field } from '../../parts/Field.tsx';
import { say } from '../../parts/notices.ts';
import { count } from '../../parts/words.ts';
import { useRefresh } from '../../tray/useTray.ts';

/** The limits that hold for all links of the site, and what decisions taught. */
export function SiteLimits({ site }: { site: number }) {
  const query = useQuery({
    queryKey: ['site', site, 'limits'],
    queryFn: () => answer(api.GET('/api/sites/{site}/limits', { params: { path: { site } } })),
  });
  if (!query.data) {
    return query.isError ? <p role="alert">{query.error.message}</p> : null;
  }
  return (
    <>
      <LimitsForm key={JSON.stringify(query.data.limits)} site={site} known={query.data} />
      <Habits known={query.data} />
      <Learnt site={site} known={query.data} />
    </>
  );
}

function LimitsForm({ site, known }: { site: number; known: Schema['LimitsAndLessons'] }) {
  const refresh = useRefresh(site);
  const [limits, setLimits] = useState(known.limits);
  const [never, setNever] = useState(known.limits.never_words.join('\n'));
  const change = (part: Partial<Schema['LimitsWish']>) => setLimits({ ...limits, ...part });
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/api/sites/{site}/limits', {
          params: { path: { site } },
          body: { ...limits, never_words: never.split('\n') },
        }),
      ),
    onSuccess: async () => {
      say({ text: 'Saved. The openings of all pages follow.' });
      await refresh();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate();
  };
  const toggle = (category: string, isLeftOut: boolean) =>
    change({
      left_out: isLeftOut ? [...limits.left_out, category] : limits.left_out.filter((other) => other !== category),
    });
  return (
    <form
      onSubmit={submit}
      noValidate
      aria-label="Limits for links"
      className="mt-6 mb-4 rounded-box border border-base-300 px-4 pt-2 pb-4"
    >
      <h2 className="mb-2 font-serif text-lg font-semibold">Limits for links</h2>
      <p className="mb-3 text-secondary">They hold for every opening, taken by hand or by the dozen.</p>
      <div className="grid gap-x-6 sm:grid-cols-2 xl:grid-cols-4">
        <Count
          label="Links in one sentence, at most"
          help="Links that are there already count."
          value={limits.per_sentence}
          set={(per_sentence) => change({ per_sentence })}
        />
        <Count
          label="One link for so many words"
          help="Ten links are allowed in any case."
          value={limits.words_per_link}
          set={(words_per_link) => change({ words_per_link })}
        />
        <Count
          label="First words without links"
          help="0 lets links begin at once."
          value={limits.first_words_free}
          set={(first_words_free) => change({ first_words_free })}
        />
        <Count
          label="Months until a page is too old"
          help="Older ones are not led to. 0 sets no age."
          value={limits.oldest_months ?? 0}
          set={(months) => change({ oldest_months: months || null })}
        />
      </div>
      <div className="mb-4 flex flex-col gap-4">
        <Check
          label="A page may lead back to one whose text leads to it"
          isOn={limits.links_back}
          set={(links_back) => change({ links_back })}
        />
        <Check
          label="Openings fit better that are like this site's own links"
          isOn={limits.follows_habits}
          set={(follows_habits) => change({ follows_habits })}
        />
      </div>
      <Field label="Words that never carry a link" help="One a line, in any case. Whatever page they may name.">
        {(props) => (
          <textarea
            {...props}
            className="textarea w-full"
            rows={3}
            value={never}
            onChange={(event) => setNever(event.target.value)}
          />
        )}
      </Field>
      {known.categories.length > 0 && (
        <fieldset className="mb-4">
          <legend className="mb-1 font-semibold">Categories without openings</legend>
          <div className="flex max-h-40 flex-wrap gap-x-5 gap-y-1 overflow-y-auto">
            {known.categories.map((category) => (
              <Check
                key={category}
                label={category}
                isOn={limits.left_out.includes(category)}
                set={(isLeftOut) => toggle(category, isLeftOut)}
              />
            ))}
          </div>
        </fieldset>
      )}
      {save.isError && (
        <p role="alert" className="mb-2 font-semibold text-accent">
          {save.error.message}
        </p>
      )}
      <button type="submit" className="btn btn-primary" disabled={save.isPending}>
        {save.isPending ? 'Saving' : 'Save the limits'}
      </button>
    </form>
  );
}

interface CountProps {
  label: string;
  help: string;
  value: number;
  set: (value: number) => void;
}

function Count({ label, help, value, set }: CountProps) {
  return (
    <Field label={label} help={help}>
      {(props) => (
        <input
          {...props}
          type="number"
          min="0"
          className="input figures w-full"
          value={value}
          onChange={(event) => set(Math.max(0, Math.round(Number(event.target.value)) || 0))}
        />
      )}
    </Field>
  );
}

function Habits({ known }: { known: Schema['LimitsAndLessons'] }) {
  const { habits_of: links, limits } = known;
  return (
    <section aria-label="What links taught" className="mb-4 rounded-box border border-base-300 px-4 pt-2 pb-4">
      <h2 className="mb-2 font-serif text-lg font-semibold">What this site's links taught</h2>
      {!links ? (
        <p className="text-secondary">
          Nothing. Where running text has some hundreds of links they tell, after a reading, what is linked here and
          what is left alone.
        </p>
      ) : (
        <p className="figures">
          {count(links, 'link')} in running text told what is linked here and what is left alone.{' '}
          {limits.follows_habits ? 'Openings that are like them fit better.' : 'The limits above say not to follow it.'}
        </p>
      )}
    </section>
  );
}

function Learnt({ site, known }: { site: number; known: Schema['LimitsAndLessons'] }) {
  const refresh = useRefresh(site);
  const forget = useMutation({
    mutationFn: () => answer(api.DELETE('/api/sites/{site}/lessons', { params: { path: { site } } })),
    onSuccess: async () => {
      say({ text: 'Forgotten: the fit is what it was at first.' });
      await refresh();
    },
  });
  const decided = known.taken + known.passed;
  const moved = known.parts.filter(({ counts }) => Math.abs(counts - 1) >= 0.05);
  const more = known.keeps >= 1;
  return (
    <section aria-label="What was learnt" className="mb-4 rounded-box border border-base-300 px-4 pt-2 pb-4">
      <h2 className="mb-2 font-serif text-lg font-semibold">What your decisions taught</h2>
      {decided === 0 ? (
        <p className="text-secondary">
          Nothing yet. Each opening that is taken or passed tells what is wanted here; after five of them the fit begins
          to follow.
        </p>
      ) : (
        <>
          <p className="figures">
            {count(known.taken, 'opening')} taken and {known.passed} passed; the fit follows {known.learnt_from} of
            them.
          </p>
          {known.learnt_from > 0 && (
            <ul className="figures mt-2 list-disc pl-5">
              <li>
                The same opening is {more ? 'more' : 'less'} likely to be kept here: its odds are{' '}
                {known.keeps.toFixed(2)} times what they were at first.
              </li>
              {moved.map(({ part, counts }) => (
                <li key={part}>
                  <b>{part}</b> counts {Math.round(Math.abs(counts - 1) * 100)} % {counts > 1 ? 'more' : 'less'}.
                </li>
              ))}
            </ul>
          )}
          <button
            type="button"
            className="btn btn-sm btn-ghost mt-3 border-base-300"
            disabled={forget.isPending}
            onClick={() => forget.mutate()}
          >
            Forget what was learnt
          </button>
        </>
      )}
    </section>
  );
}
