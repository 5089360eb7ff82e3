import { type FormEvent, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { Check } from '../../parts/Check.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Field } from '../../parts/Field.tsx';
import { useRuleActions } from './useRules.ts';

interface Props {
  site: number;
  known: Schema['RuleLimitsWish'];
  close: () => void;
}

/** What holds for all rules together. */
export function RuleLimits({ site, known, close }: Props) {
  const { setLimits } = useRuleActions(site);
  const [limits, setWished] = useState(known);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    setLimits.mutate(limits, { onSuccess: close });
  };
  const field = (key: Exclude<keyof typeof limits, 'heeds_referrer'>, label: string, help: string, factor = 1) => (
    <Field label={label} help={help}>
      {(props) => (
        <input
          {...props}
          type="number"
          className="input w-full"
          min={factor === 1 ? 1 : 0}
          max={factor === 1 ? undefined : factor}
          value={Math.round(limits[key] * factor)}
          onChange={(event) => setWished({ ...limits, [key]: Math.round(Number(event.target.value)) / factor })}
        />
      )}
    </Field>
  );
  return (
    <Dialog title="Limits for all rules" close={close}>
      <form onSubmit={submit} noValidate className="px-4 py-3">
        <p className="mb-3 text-secondary">The limits for links in Setup hold beside them.</p>
        <div className="grid gap-x-6 sm:grid-cols-2">
          {field('words_per_link', 'One link of a rule for so many words', 'A short page gets one.')}
          {field('per_target', 'Links to one target on a page', 'Whatever rules lead there.')}
          {field('per_anchor', 'Links on the same words on a page', 'In any case of letters.')}
          {field('per_sentence', 'Links of rules in a sentence', 'A rule can have its own.')}
          {field('share', 'Percent of the places that are linked', 'Always the same ones.', 100)}
        </div>
        <div className="mb-4">
          <Check
            label="Lead no reader back to the page that he just came from"
            isOn={limits.heeds_referrer ?? false}
            set={(heeds_referrer) => setWished({ ...limits, heeds_referrer })}
          />
          <p className="mt-1 text-secondary">
            Only through an edge. Caches then keep a page once for each page from which readers come.
          </p>
        </div>
        {setLimits.isError && (
          <p role="alert" className="mb-2 font-semibold text-accent">
            {setLimits.error.message}
          </p>
        )}
        <button type="submit" className="btn btn-primary" disabled={setLimits.isPending}>
          Save the limits
        </button>
      </form>
    </Dialog>
  );
}
