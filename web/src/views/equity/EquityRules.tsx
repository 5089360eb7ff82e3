import { useMutation } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { Field } from '../../parts/Field.tsx';
import { say } from '../../parts/notices.ts';
import { useRefresh } from '../../tray/useTray.ts';

type Rules = Schema['EquityWish'];

const FIELDS: { key: keyof Rules; label: string; least: number; most: number; help?: string }[] = [
  { key: 'content', label: 'A link in the text', least: 0, most: 1 },
  { key: 'menu', label: 'A link in a menu', least: 0, most: 1 },
  { key: 'footer', label: 'A link at the foot or beside the text', least: 0, most: 1 },
  {
    key: 'damping',
    label: 'Readers who follow a link',
    least: 0.5,
    most: 0.95,
    help: 'The others begin anew on any page.',
  },
];

/** How equity is counted, to be set for the site. */
export function EquityRules({ site, rules }: { site: number; rules: Rules }) {
  const [typed, setTyped] = useState<Record<keyof Rules, string>>();
  const refresh = useRefresh(site);
  const shown = typed ?? asTyped(rules);
  const save = useMutation({
    mutationFn: async (equity: Rules) => {
      const params = { path: { site } };
      const settings = await answer(api.GET('/api/sites/{site}/settings', { params }));
      await answer(api.PUT('/api/sites/{site}/settings', { params, body: { ...settings, token: null, equity } }));
    },
    onSuccess: () => {
      setTyped(undefined);
      say({ text: 'Equity is counted anew.' });
    },
    onSettled: refresh,
  });
  const wrong = FIELDS.find(({ key, least, most }) => !(Number(shown[key]) >= least && Number(shown[key]) <= most));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!wrong) {
      save.mutate({
        content: Number(shown.content),
        menu: Number(shown.menu),
        footer: Number(shown.footer),
        damping: Number(shown.damping),
      });
    }
  };
  return (
    <form onSubmit={submit} className="rounded-box border border-base-300 bg-base-200 p-3">
      <h2 className="mb-1 font-semibold">How it is counted</h2>
      <p className="mb-3 text-secondary">
        Each page passes what it has on to those it links to, by what each link is worth. Several links to one page
        count as one, the best of them; one with nofollow passes nothing on.
      </p>
      <div className="grid grid-cols-2 gap-x-4">
        {FIELDS.map(({ key, label, least, most, help }) => (
          <Field
            key={key}
            label={label}
            help={help ?? `${least} to ${most}`}
            problem={wrong?.key === key ? `From ${least} to ${most}.` : undefined}
          >
            {(props) => (
              <input
                {...props}
                type="number"
                step="0.05"
                min={least}
                max={most}
                className="input input-sm figures w-24"
                value={shown[key]}
                onChange={(event) => setTyped({ ...shown, [key]: event.target.value })}
              />
            )}
          </Field>
        ))}
      </div>
      <button
        type="submit"
        className="btn btn-sm btn-primary"
        disabled={!typed || wrong !== undefined || save.isPending}
      >
        Count anew
      </button>
    </form>
  );
}

function asTyped(rules: Rules): Record<keyof Rules, string> {
  const { content, menu, footer, damping } = rules;
  return { content: String(content), menu: String(menu), footer: String(footer), damping: String(damping) };
}
