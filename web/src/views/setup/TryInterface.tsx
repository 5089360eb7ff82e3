import { useMutation } from '@tanstack/react-query';
import { answer, api } from '../../api/client.ts';

interface Props {
  micropub: string;
  token: string;
}

/** Sends the token to an editing interface on a press, with the address in full view. */
export function TryInterface({ micropub, token }: Props) {
  const tried = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/try-interface', { body: { micropub, token } })),
  });
  const problem = tried.data?.problem?.message;
  return (
    <p className="-mt-2 mb-4 flex flex-wrap items-center gap-x-3 gap-y-1">
      <button type="button" className="btn btn-sm" disabled={tried.isPending} onClick={() => tried.mutate()}>
        Try the token
      </button>
      <span className="min-w-0 break-all text-secondary">sends it to {micropub}</span>
      <span role="status" className={problem ? 'w-full font-semibold text-accent' : 'w-full font-semibold'}>
        {tried.data && (problem ?? 'The editing interface answers and takes the token.')}
      </span>
    </p>
  );
}
