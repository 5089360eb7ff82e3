import { useMutation } from '@tanstack/react-query';
import { type FormEvent, type ReactNode, useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { Field } from '../../parts/Field.tsx';
import { say } from '../../parts/notices.ts';
import { useRefresh } from '../../tray/useTray.ts';
import { PartOfSite } from './PartOfSite.tsx';
import { Writes } from './Writes.tsx';

type Settings = Schema['SiteSettings'];

/** All that is set for a site, saved together. */
export function SettingsForm({ site, settings }: { site: number; settings: Settings }) {
  const refresh = useRefresh(site);
  const [name, setName] = useState(settings.name);
  const [entries, setEntries] = useState(settings.entries.join('\n'));
  const [roads, setRoads] = useState(settings.roads);
  const [heedsNofollow, setHeedsNofollow] = useState(settings.heeds_nofollow);
  const [mostPages, setMostPages] = useState(String(settings.most_pages));
  const [delay, setDelay] = useState(String(settings.delay_ms / 1000));
  const [ignored, setIgnored] = useState(settings.ignored_parameters.join(', '));
  const [readEvery, setReadEvery] = useState(settings.read_every);
  const [micropub, setMicropub] = useState(settings.micropub ?? '');
  const [token, setToken] = useState('');
  const [writes, setWrites] = useState(settings.writes);
  const [within, setWithin] = useState(settings.part.within.join('\n'));
  const [without, setWithout] = useState(settings.part.without.join('\n'));
  const body: Schema['ChangedSettings'] = {
    name,
    entries: entries.split('\n'),
    roads,
    heeds_nofollow: heedsNofollow,
    most_pages: Math.round(Number(mostPages)) || 0,
    delay_ms: Math.round(Number(delay) * 1000) || 0,
    ignored_parameters: [ignored],
    read_every: readEvery,
    writes,
    part: { within: [within], without: [without] },
    micropub: micropub.trim() || null,
    token: token.trim() || null,
  };
  const save = useMutation({
    mutationFn: () => answer(api.PUT('/api/sites/{site}/settings', { params: { path: { site } }, body })),
    onSuccess: async () => {
      say({ text: 'Saved.' });
      await refresh();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate();
  };
  return (
    <form onSubmit={submit} noValidate>
      <Group title="The site">
        <p className="mb-3 break-all text-secondary">
          {settings.folder
            ? `Read from the folder ${settings.folder}, as ${settings.entry}`
            : `Read from ${settings.entry}`}
        </p>
        {settings.link_example && (
          <p className="mb-3 text-secondary">
            From most of its links: a page is linked from one beside it as <code>{settings.link_example}</code>, and new
            links are written alike.
          </p>
        )}
        <Field label="Name">
          {(props) => (
            <input
              {...props}
              className="input w-full"
              maxLength={100}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          )}
        </Field>
      </Group>
      <Group title="Reach">
        <Field
          label="Further entry pages"
          help="One a line, such as /news/. Readers start on them as they do on the entry page, for example from an advertisement."
        >
          {(props) => (
            <textarea
              {...props}
              className="textarea w-full"
              rows={2}
              value={entries}
              onChange={(e) => setEntries(e.target.value)}
            />
          )}
        </Field>
        <fieldset className="mb-4">
          <legend className="mb-1 font-semibold">What counts as a road, when clicks are counted?</legend>
          {(
            [
              ['all', 'Every link: menus, headers and footers too'],
              ['content', 'Links in the content alone: how readers come along while reading'],
            ] as const
          ).map(([value, words]) => (
            <label key={value} className="flex items-center gap-2 py-0.5">
              <input
                type="radio"
                name="roads"
                className="radio radio-sm"
                checked={roads === value}
                onChange={() => setRoads(value)}
              />
              {words}
            </label>
          ))}
          <label className="mt-1 flex items-center gap-2 py-0.5">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={heedsNofollow}
              onChange={(event) => setHeedsNofollow(event.target.checked)}
            />
            <span>
              Leave out links with <code>nofollow</code>: readers follow them, crawlers may not
            </span>
          </label>
        </fieldset>
      </Group>
      <Group title="Reading">
        <Field
          label="Read it again by itself"
          help="Counted from the beginning of the latest reading. You can read it again at any time besides."
        >
          {(props) => (
            <select
              {...props}
              className="select w-full"
              value={readEvery}
              onChange={(e) => setReadEvery(e.target.value as typeof readEvery)}
            >
              <option value="never">Never</option>
              <option value="day">Every day</option>
              <option value="week">Every week</option>
              <option value="month">Every month</option>
            </select>
          )}
        </Field>
        <PartOfSite within={within} setWithin={setWithin} without={without} setWithout={setWithout} />
        {!settings.folder && (
          <>
            <div className="grid gap-x-6 sm:grid-cols-2">
              <Field label="Addresses to look at, at most" help="A reading that finds more says so.">
                {(props) => (
                  <input
                    {...props}
                    type="number"
                    min="1"
                    max="200000"
                    className="input figures w-full"
                    value={mostPages}
                    onChange={(e) => setMostPages(e.target.value)}
                  />
                )}
              </Field>
              <Field label="Seconds between two requests" help="0 reads as fast as the site answers, eight at a time.">
                {(props) => (
                  <input
                    {...props}
                    type="number"
                    min="0"
                    max="60"
                    step="0.1"
                    className="input figures w-full"
                    value={delay}
                    onChange={(e) => setDelay(e.target.value)}
                  />
                )}
              </Field>
            </div>
            <Field
              label="Parameters of addresses that change nothing"
              help="Addresses that differ in these alone are one page. utm_* stands for all that begin with utm_. The next reading heeds it."
            >
              {(props) => (
                <textarea
                  {...props}
                  className="textarea w-full"
                  rows={2}
                  value={ignored}
                  onChange={(e) => setIgnored(e.target.value)}
                />
              )}
            </Field>
          </>
        )}
      </Group>
      <Group title="How changes get there">
        {settings.folder ? (
          <Writes writes={writes} setWrites={setWrites} />
        ) : (
          <p className="mb-3">
            {settings.micropub
              ? 'Releases are written to the site directly, over its editing interface.'
              : 'Strelm reads this site and does not write to it: what you decide is handed over, as a list to work by, and the next reading sees what of it was put in. To have releases written directly, name the editing interface (Micropub) of the site. Many systems have one built in or as an addition; whoever runs the site knows, and can give you a token.'}
          </p>
        )}
      </Group>
      {!settings.folder && (
        <Group title="Editing">
          <Field
            label="Editing interface"
            help={
              <>
                The address of the site’s Micropub endpoint.
                {settings.named_micropub && micropub.trim() === '' && (
                  <button
                    type="button"
                    className="ml-1 text-primary underline"
                    onClick={() => setMicropub(settings.named_micropub ?? '')}
                  >
                    Use {settings.named_micropub}, which the site names
                  </button>
                )}
              </>
            }
          >
            {(props) => (
              <input
                {...props}
                type="text"
                inputMode="url"
                className="input w-full"
                value={micropub}
                onChange={(e) => setMicropub(e.target.value)}
              />
            )}
          </Field>
          <Field
            label={settings.has_token ? 'A new token (the one that is there stays if this is empty)' : 'Its token'}
            help="Kept in a file outside of the database. It is never shown, not even to you."
          >
            {(props) => (
              <input
                {...props}
                type="password"
                autoComplete="off"
                className="input w-full"
                value={token}
                onChange={(e) => setToken(e.target.value)}
              />
            )}
          </Field>
        </Group>
      )}
      {save.isError && (
        <p role="alert" className="mb-2 font-semibold text-accent">
          {save.error.message}
        </p>
      )}
      <button type="submit" className="btn btn-primary" disabled={save.isPending}>
        {save.isPending ? 'Saving' : 'Save'}
      </button>
    </form>
  );
}

function Group({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="mb-4 rounded-box border border-base-300 px-4 pt-2">
      <h2 className="mb-2 font-serif text-lg font-semibold">{title}</h2>
      {children}
    </section>
  );
}
