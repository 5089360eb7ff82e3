import { useQuery } from '@tanstack/react-query';
import { answer, api } from '../../api/client.ts';

/** Folders that may be read, to choose instead of typing: those that are allowed, then those in the one that is chosen. */
export function AllowedFolders({ folder, choose }: { folder: string; choose: (path: string) => void }) {
  const below = folder.trim();
  const folders = useQuery({
    queryKey: ['folders', below],
    queryFn: () => answer(api.GET('/api/folders', { params: { query: below ? { below } : {} } })),
    placeholderData: (before) => before,
  });
  const found = folders.data;
  if (!found || (found.folders.length === 0 && found.above == null)) {
    return null;
  }
  return (
    <nav aria-label="Folders that may be read" className="-mt-2 mb-4">
      <ul className="flex max-h-40 flex-wrap gap-1.5 overflow-y-auto p-0.5">
        {found.above != null && (
          <li>
            <button
              type="button"
              className="btn btn-xs btn-ghost border-base-300"
              onClick={() => choose(found.above ?? '')}
            >
              <span aria-hidden="true">↑</span> {found.above === '' ? 'All allowed folders' : 'One up'}
            </button>
          </li>
        )}
        {found.folders.map((one) => (
          <li key={one.path}>
            <button
              type="button"
              className="btn btn-xs btn-ghost border-base-300"
              title={one.path}
              onClick={() => choose(one.path)}
            >
              {one.name}
            </button>
          </li>
        ))}
      </ul>
    </nav>
  );
}
