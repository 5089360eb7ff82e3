import { useMutation, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { answer, api } from '../../api/client.ts';
import { Field } from '../../parts/Field.tsx';
import { Notices } from '../../parts/Notices.tsx';
import { type SourceWish, useLook } from './useLook.ts';

type Kind = SourceWish['kind'];

/** Adding a site: what is typed is looked at at once, and what would be read is shown. */
export function AddSiteView() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [kind, setKind] = useState<Kind>('web');
  const [address, setAddress] = useState('');
  const [folder, setFolder] = useState('');
  const [published, setPublished] = useState('');
  const [micropub, setMicropub] = useState('');
  const [token, setToken] = useState('');
  const [name, setName] = useState<string>();
  const source: SourceWish =
    kind === 'web' ? { kind, address, micropub, token } : { kind, path: folder, address: published };
  const { look, isLooking, error } = useLook(source, (kind === 'web' ? address : folder).trim() !== '');
  const problemOf = (field: string) => (look?.problem?.field === field ? look.problem.message : undefined);
  const shownName = name ?? look?.name ?? '';
  const add = useMutation({
    mutationFn: () => answer(api.POST('/api/sites', { body: { name: shownName, source } })),
    onSuccess: async ({ site }) => {
      await queries.invalidateQueries({ queryKey: ['sites'] });
      void navigate(`/${site}/today`);
    },
  });
  const isReady = look && !look.problem && look.known_as == null && shownName.trim() !== '' && !isLooking;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (isReady) {
      add.mutate();
    }
  };
  return (
    <main className="mx-auto h-full max-w-2xl overflow-y-auto px-4 py-6">
      <Link to="/" className="mb-4 flex w-fit items-center gap-1.5 font-serif text-lg font-semibold">
        <img src="/sounding.svg" alt="" className="size-5" />
        Strelm
      </Link>
      <h1 className="mb-3 font-serif text-2xl font-semibold">Add a site</h1>
      <form onSubmit={submit} noValidate>
        <fieldset className="mb-4 flex gap-5">
          <legend className="mb-1 font-semibold">Where is it read from?</legend>
          {(['web', 'folder'] as const).map((one) => (
            <label key={one} className="flex items-center gap-2">
              <input
                type="radio"
                name="kind"
                className="radio radio-sm"
                checked={kind === one}
                onChange={() => setKind(one)}
              />
              {one === 'web' ? 'The live site on the web' : 'A folder of HTML or Markdown files'}
            </label>
          ))}
        </fieldset>
        {kind === 'web' ? (
          <>
            <Field
              label="Address of the entry page"
              help="The page on which readers start. Reading it takes nothing but requests."
              problem={problemOf('address')}
            >
              {(props) => (
                <input
                  {...props}
                  type="text"
                  inputMode="url"
                  autoComplete="url"
                  className="input w-full"
                  placeholder="www.example.org"
                  value={address}
                  onChange={(event) => setAddress(event.target.value)}
                />
              )}
            </Field>
            <Interface
              micropub={micropub}
              setMicropub={setMicropub}
              token={token}
              setToken={setToken}
              named={look?.micropub ?? null}
              problemOf={problemOf}
            />
          </>
        ) : (
          <>
            <Field
              label="Path of the folder"
              help="On the machine on which Strelm runs. When you release, links are written into the files."
              problem={problemOf('folder')}
            >
              {(props) => (
                <input
                  {...props}
                  type="text"
                  className="input w-full"
                  placeholder="/srv/site"
                  value={folder}
                  onChange={(event) => setFolder(event.target.value)}
                />
              )}
            </Field>
            <Field
              label="Address where it is published (may stay empty)"
              help="Links that are written with this address are then known as links within the site."
              problem={problemOf('address')}
            >
              {(props) => (
                <input
                  {...props}
                  type="text"
                  inputMode="url"
                  className="input w-full"
                  placeholder="www.example.org"
                  value={published}
                  onChange={(event) => setPublished(event.target.value)}
                />
              )}
            </Field>
          </>
        )}
        <Field label="Name" help="By which you will know it here.">
          {(props) => (
            <input
              {...props}
              type="text"
              className="input w-full"
              maxLength={100}
              value={shownName}
              onChange={(event) => setName(event.target.value)}
            />
          )}
        </Field>
        <section aria-label="What would be read" aria-live="polite" className="mb-4 min-h-20" data-testid="look">
          {isLooking && (
            <p className="text-secondary">
              <span className="loading loading-dots loading-xs mr-1" aria-hidden="true" />
              Looking
            </p>
          )}
          {error && <p className="font-semibold text-accent">{error}</p>}
          {look && !look.problem && !isLooking && (
            <div className="rounded-box border border-base-300 bg-base-200 px-4 py-3">
              <p className="mb-1 font-semibold">What would be read: {look.entry}</p>
              <ul className="list-disc pl-5">
                {look.says.map((sentence) => (
                  <li key={sentence}>{sentence}</li>
                ))}
              </ul>
              {look.known_as != null && (
                <p className="mt-1 font-semibold text-accent">
                  This site is there already.{' '}
                  <Link className="underline" to={`/${look.known_as}/today`}>
                    Go to it
                  </Link>
                </p>
              )}
            </div>
          )}
        </section>
        <div className="flex gap-2">
          <button type="submit" className="btn btn-primary" disabled={!isReady || add.isPending}>
            Add and read it
          </button>
          <Link to="/" className="btn btn-ghost border-base-300">
            Cancel
          </Link>
        </div>
      </form>
      <Notices />
    </main>
  );
}

interface InterfaceProps {
  micropub: string;
  setMicropub: (text: string) => void;
  token: string;
  setToken: (text: string) => void;
  /** The interface that the site names. */
  named: string | null;
  problemOf: (field: string) => string | undefined;
}

function Interface({ micropub, setMicropub, token, setToken, named, problemOf }: InterfaceProps) {
  return (
    <>
      <Field
        label="Editing interface (may stay empty)"
        help={
          <>
            The address of its Micropub endpoint. Without one, links can be planned but not released.
            {named && micropub === '' && (
              <button type="button" className="ml-1 text-primary underline" onClick={() => setMicropub(named)}>
                Use {named}, which the site names
              </button>
            )}
          </>
        }
        problem={problemOf('micropub')}
      >
        {(props) => (
          <input
            {...props}
            type="text"
            inputMode="url"
            className="input w-full"
            value={micropub}
            onChange={(event) => setMicropub(event.target.value)}
          />
        )}
      </Field>
      {micropub.trim() !== '' && (
        <Field
          label="Its token"
          help="Kept in a file outside of the database, and never shown again."
          problem={problemOf('token')}
        >
          {(props) => (
            <input
              {...props}
              type="password"
              autoComplete="off"
              className="input w-full"
              value={token}
              onChange={(event) => setToken(event.target.value)}
            />
          )}
        </Field>
      )}
    </>
  );
}
