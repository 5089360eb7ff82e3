import { useMutation, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useNavigate } from 'react-router';
import { answer, api } from '../../api/client.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { Field } from '../../parts/Field.tsx';

/** Deleting a site wants its name typed. */
export function DeleteSite({ site, name, close }: { site: number; name: string; close: () => void }) {
  const [typed, setTyped] = useState('');
  const navigate = useNavigate();
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () =>
      answer(api.DELETE('/api/sites/{site}', { params: { path: { site }, query: { name: typed.trim() } } })),
    onSuccess: async () => {
      close();
      await navigate('/');
      queries.removeQueries({ queryKey: ['site', site] });
      await queries.invalidateQueries({ queryKey: ['sites'] });
    },
  });
  const matches = typed.trim() === name;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (matches) {
      remove.mutate();
    }
  };
  return (
    <Dialog title={`Delete ${name}`} close={close}>
      <form onSubmit={submit} className="p-4">
        <Field label="Type the name of the site to delete it" help={`Its name is “${name}”. This cannot be undone.`}>
          {(props) => (
            <input
              {...props}
              type="text"
              autoComplete="off"
              className="input w-full"
              value={typed}
              onChange={(event) => setTyped(event.target.value)}
            />
          )}
        </Field>
        {remove.isError && (
          <p role="alert" className="mb-2 font-semibold text-accent">
            {remove.error.message}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-ghost border-base-300" onClick={close}>
            Keep it
          </button>
          <button type="submit" className="btn btn-error" disabled={!matches || remove.isPending}>
            Delete it
          </button>
        </div>
      </form>
    </Dialog>
  );
}
