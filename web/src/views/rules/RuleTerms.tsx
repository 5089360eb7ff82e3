import { useId } from 'react';
import { Check } from '../../parts/Check.tsx';
import { count } from '../../parts/words.ts';
import { type Taxonomy, type Terms, termsAmong } from './ruleDraft.ts';
import { Count } from './ruleFields.tsx';

interface Props {
  terms: Terms;
  taxonomies: readonly Taxonomy[];
  set: (terms: Terms) => void;
}

/** For which categories and tags a rule stands: the name of each leads to its archive. */
export function RuleTerms({ terms, taxonomies, set }: Props) {
  const which = useId();
  const all = taxonomies.reduce((sum, { carriers }) => sum + carriers.length, 0);
  const meant = termsAmong(terms, taxonomies);
  const isKnown = terms.taxonomy === null || taxonomies.some(({ folder }) => folder === terms.taxonomy);
  if (all === 0) {
    return (
      <p className="text-secondary">
        No page here is known to be the archive of a category or tag. Archives are the pages to which other pages link
        with <code>rel="tag"</code>; they are looked up whenever the site is read.
      </p>
    );
  }
  return (
    <div>
      <label htmlFor={which} className="mb-1 block font-semibold">
        The name of each of these leads to its archive
      </label>
      <select
        id={which}
        className="select select-sm w-full"
        value={terms.taxonomy ?? ''}
        onChange={(event) => set({ ...terms, taxonomy: event.target.value || null })}
      >
        <option value="">All categories and tags ({count(all, 'term')})</option>
        {taxonomies.map(({ folder, names, carriers }) => (
          <option key={folder} value={folder}>
            {folder} ({count(carriers.length, 'term')}: {names.join(', ')}
            {carriers.length > names.length && ' …'})
          </option>
        ))}
        {!isKnown && <option value={terms.taxonomy ?? ''}>{terms.taxonomy} (no terms now)</option>}
      </select>
      <p className="figures mt-1 leading-8">
        for terms that{' '}
        <Count
          label="Pages that carry a term, at least"
          value={terms.least_pages}
          least={0}
          set={(least_pages) => set({ ...terms, least_pages })}
        />{' '}
        pages or more carry: {meant === all ? `all ${all}` : `${meant} of ${all}`}.
      </p>
      <Check
        label="each only on pages that carry it"
        isOn={terms.only_carriers}
        set={(only_carriers) => set({ ...terms, only_carriers })}
      />
    </div>
  );
}
