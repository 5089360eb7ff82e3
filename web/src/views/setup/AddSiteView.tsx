import { useMutation, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { answer, api, type Schema } from '../../api/client.ts';
import { Notices } from '../../parts/Notices.tsx';
import { AllowedFolders } from './AllowedFolders.tsx';
import { FileField } from './FileField.tsx';
import { ListColumns } from './ListColumns.tsx';
import { PartOfSite } from './PartOfSite.tsx';
import { TextField } from './TextField.tsx';
import { TryInterface } from './TryInterface.tsx';
import { type SourceWish, useLook } from './useLook.ts';
import { Writes } from './Writes.tsx';

type Kind = SourceWish['kind'];

const KINDS: { kind: Kind; name: string }[] = [
  { kind: 'web', name: 'The live site on the web' },
  { kind: 'list', name: 'The live site, by a list of its pages' },
  { kind: 'archive', name: 'A file with its pages in it' },
  { kind: 'folder', name: 'A folder on the server' },
];

/** Adding a site: what is typed is looked at at once, and what would be read is shown. */
export function AddSiteView() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [kind, setKind] = useState<Kind>('web');
  const [address, setAddress] = useState('');
  const [folder, setFolder] = useState('');
  const [writes, setWrites] = useState(true);
  const [published, setPublished] = useState('');
  const [micropub, setMicropub] = useState('');
  const [token, setToken] = useState('');
  const [archive, setArchive] = useState<Schema['Upload']>();
  const [list, setList] = useState<Schema['Upload']>();
  const [columns, setColumns] = useState<Schema['Columns']>({});
  const [name, setName] = useState<string>();
  const [within, setWithin] = useState('');
  const [without, setWithout] = useState('');
  const source = wishOf();
  const { look, isLooking, error } = useLook(withoutToken(source), source !== undefined);
  const problemOf = (field: string) => (look?.problem?.field === field ? look.problem.message : undefined);
  const shownName = name ?? look?.name ?? '';
  const add = useMutation({
    mutationFn: (source: SourceWish) =>
      answer(
        api.POST('/api/sites', { body: { name: shownName, source, part: { within: [within], without: [without] } } }),
      ),
    onSuccess: async ({ site }) => {
      await queries.invalidateQueries({ queryKey: ['sites'] });
      void navigate(`/${site}/today`);
    },
  });
  const isReady = look && !look.problem && look.known_as == null && shownName.trim() !== '' && !isLooking;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (isReady && source) {
      add.mutate(source);
    }
  };

  /** Files that are published nowhere have an address for inner use alone. */
  function whatIsRead(entry: string): string {
    if (kind === 'folder' && published.trim() === '') {
      return folder;
    }
    return kind === 'archive' && published.trim() === '' ? 'the pages in this file' : entry;
  }

  /** What is to be looked at; nothing while it is not yet said. */
  function wishOf(): SourceWish | undefined {
    switch (kind) {
      case 'web':
        return address.trim() ? { kind, address, micropub, token } : undefined;
      case 'folder':
        return folder.trim() ? { kind, path: folder, address: published, writes } : undefined;
      case 'archive':
        return archive?.files != null ? { kind, upload: archive.upload, address: published } : undefined;
      case 'list':
        return list?.list ? { kind, upload: list.upload, columns, address } : undefined;
    }
  }

  return (
    <main className="mx-auto h-full max-w-2xl overflow-y-auto px-4 py-6">
      <Link to="/" className="mb-4 flex w-fit items-center gap-1.5 font-serif text-lg font-semibold">
        <img src="/sounding.svg" alt="" className="size-5" />
        Strelm
      </Link>
      <h1 className="mb-3 font-serif text-2xl font-semibold">Add a site</h1>
      <form onSubmit={submit} noValidate>
        <fieldset className="mb-4 grid gap-x-5 gap-y-1 sm:grid-cols-2">
          <legend className="mb-1 font-semibold">Where is it read from?</legend>
          {KINDS.map((one) => (
            <label key={one.kind} className="flex items-center gap-2">
              <input
                type="radio"
                name="kind"
                className="radio radio-sm"
                checked={kind === one.kind}
                onChange={() => setKind(one.kind)}
              />
              {one.name}
            </label>
          ))}
        </fieldset>
        {kind === 'web' && (
          <>
            <TextField
              label="Address of the entry page"
              help="The page on which readers start. Reading a site asks for its pages and changes nothing."
              kind="address"
              placeholder="www.example.org"
              problem={problemOf('address')}
              value={address}
              setValue={setAddress}
            />
            <Interface
              micropub={micropub}
              setMicropub={setMicropub}
              token={token}
              setToken={setToken}
              named={look?.micropub ?? null}
              problemOf={problemOf}
            />
          </>
        )}
        {kind === 'list' && (
          <>
            <FileField
              label="The list"
              help="CSV, TSV or XLSX, one page a row. Its addresses are read first, and links are followed from there."
              accept=".csv,.tsv,.txt,.xlsx"
              problem={
                problemOf('upload') ??
                (list && !list.list ? 'This file holds pages: choose “A file with its pages in it”.' : undefined)
              }
              onSent={(upload) => {
                setList(upload);
                setColumns(upload?.list?.proposed ?? {});
              }}
            />
            {list?.list && (
              <ListColumns list={list.list} columns={columns} setColumns={setColumns} problem={problemOf('columns')} />
            )}
            <TextField
              label="Address of the entry page (may stay empty)"
              help="Needed when readers do not start on the first page of the host, or when the list has paths alone."
              kind="address"
              placeholder="www.example.org"
              problem={problemOf('address')}
              value={address}
              setValue={setAddress}
            />
          </>
        )}
        {kind === 'archive' && (
          <FileField
            label="The file"
            help="ZIP or tar.gz of HTML and Markdown, a web archive (WARC), or JSON Lines with url and html. It is unpacked on the server; when you release, links are written into that copy."
            accept=".zip,.tar.gz,.tgz,.warc,.warc.gz,.gz,.jsonl,.ndjson,application/zip,application/gzip"
            problem={
              problemOf('upload') ?? (archive?.list ? 'This is a list of addresses, without their pages.' : undefined)
            }
            onSent={setArchive}
          />
        )}
        {kind === 'folder' && (
          <>
            <TextField
              label="Path of the folder"
              help="On the machine on which Strelm runs."
              placeholder="/srv/site"
              problem={problemOf('folder')}
              value={folder}
              setValue={setFolder}
            />
            <AllowedFolders folder={folder} choose={setFolder} />
            <Writes writes={writes} setWrites={setWrites} />
          </>
        )}
        {(kind === 'archive' || kind === 'folder') && (
          <TextField
            label="Address where it is published (may stay empty)"
            help="Links that are written with this address are then known as links within the site."
            kind="address"
            placeholder="www.example.org"
            problem={problemOf('address')}
            value={published}
            setValue={setPublished}
          />
        )}
        <details className="mb-4">
          <summary className="cursor-pointer leading-6">Only a part of it</summary>
          <div className="pt-2">
            <PartOfSite within={within} setWithin={setWithin} without={without} setWithout={setWithout} />
          </div>
        </details>
        <TextField label="Name" help="By which you will know it here." value={shownName} setValue={setName} />
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
              <p className="mb-1 font-semibold">What would be read: {whatIsRead(look.entry)}</p>
              <ul className="list-disc pl-5">
                {look.says.map((sentence) => (
                  <li key={sentence}>{sentence}</li>
                ))}
              </ul>
              {look.start_at && kind === 'web' && (
                <button
                  type="button"
                  className="btn btn-sm btn-ghost mt-1 border-base-300"
                  onClick={() => setAddress(look.start_at ?? '')}
                >
                  Start at {look.start_at}
                </button>
              )}
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

/** What may be sent while somebody types. */
function withoutToken(source: SourceWish | undefined): SourceWish {
  return source?.kind === 'web'
    ? { kind: 'web', address: source.address, micropub: source.micropub ?? null }
    : (source ?? { kind: 'web', address: '' });
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
      <TextField
        label="Editing interface (may stay empty)"
        help={
          <>
            The address of its Micropub endpoint, to which releases are written directly. Without one, what you decide
            is handed over: a list to work by, and the next reading sees what was put in.
            {named && micropub === '' && (
              <button type="button" className="ml-1 text-primary underline" onClick={() => setMicropub(named)}>
                Use {named}, which the site names
              </button>
            )}
          </>
        }
        kind="address"
        problem={problemOf('micropub')}
        value={micropub}
        setValue={setMicropub}
      />
      {micropub.trim() !== '' && (
        <TextField
          label="Its token"
          help="Kept in a file outside of the database, and never shown again."
          kind="password"
          problem={problemOf('token')}
          value={token}
          setValue={setToken}
        />
      )}
      {micropub.trim() !== '' && token.trim() !== '' && !problemOf('micropub') && (
        <TryInterface key={`${micropub} ${token}`} micropub={micropub.trim()} token={token} />
      )}
    </>
  );
}
