import { Link } from 'react-router';
import type { Schema } from '../../../api/client.ts';
import { PageName } from '../../../parts/PageName.tsx';
import { count, number } from '../../../parts/words.ts';

type Left = Schema['LeftPage'];

/** Pages that no plan helps, each with its reason and what can be done; what would come with another stands under it. */
export function LeftPages({ site, left, total }: { site: number; left: readonly Left[]; total: number }) {
  const named = left.reduce((sum, page) => sum + 1 + page.follower_count, 0);
  return (
    <section aria-label="Pages without help" className="px-4 py-2">
      <h3 className="figures mb-1 font-semibold">{count(total, 'page is', 'pages are')} left</h3>
      <ul className="flex flex-col gap-2">
        {left.map((page) => (
          <li key={page.page.number} data-testid="left-page">
            <PageName site={site} page={page.page} />
            <span className="block text-secondary">{page.why}</span>
            <NextStep site={site} left={page} />
            <Followers site={site} left={page} />
          </li>
        ))}
      </ul>
      {named < total && <p className="figures mt-2 text-secondary">And {number(total - named)} more.</p>}
    </section>
  );
}

function NextStep({ site, left }: { site: number; left: Left }) {
  const gain = left.follower_count > 0 ? ` It opens ${count(left.follower_count, 'other page')}.` : '';
  const other = left.with;
  switch (left.step) {
    case 'bridge':
      return (
        <span className="block">
          Write a sentence that leads there on {other && <PageName site={site} page={other} />}, which is about the
          same.
          {gain}
        </span>
      );
    case 'merge':
      return (
        <span className="block">
          Make one page of it and {other && <PageName site={site} page={other} />}: they say the same.
        </span>
      );
    case 'menu_entry':
      return (
        <span className="block">
          Give it a place in a menu or on an overview page, or{' '}
          <Link className="link link-primary" to={`/${site}/pages/${left.page.number}`}>
            link it by hand
          </Link>
          .{gain}
        </span>
      );
    case 'retire':
      return <span className="block">Take it off the site: it says next to nothing.</span>;
    case 'loosen':
      return <span className="block">Allow more new links on a page, or more clicks.</span>;
  }
}

function Followers({ site, left }: { site: number; left: Left }) {
  if (left.follower_count === 0) {
    return null;
  }
  const unnamed = left.follower_count - left.followers.length;
  return (
    <details>
      <summary className="figures cursor-pointer text-secondary">{number(left.follower_count)} that follow it</summary>
      <ul className="pl-4 leading-6">
        {left.followers.map((page) => (
          <li key={page.number}>
            <PageName site={site} page={page} />
          </li>
        ))}
        {unnamed > 0 && <li className="figures text-secondary">and {number(unnamed)} more</li>}
      </ul>
    </details>
  );
}
