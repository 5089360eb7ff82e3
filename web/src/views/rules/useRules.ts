// The rules of a site, and what can be done with them.

import { useMutation, useQuery } from '@tanstack/react-query';
import { answer, api, type Schema } from '../../api/client.ts';
import { say } from '../../parts/notices.ts';
import { count } from '../../parts/words.ts';
import { useRefresh } from '../../tray/useTray.ts';
import type { Rule } from './ruleDraft.ts';

export type RuleRow = Schema['RuleRow'];

/** Counts that are on their way are asked for again so soon, in milliseconds. */
const SOON = 1000;

export function useRules(site: number) {
  return useQuery({
    queryKey: ['site', site, 'rules'],
    queryFn: () => answer(api.GET('/api/sites/{site}/rules', { params: { path: { site } } })),
    refetchInterval: ({ state }) =>
      state.data && !state.data.is_counted && state.data.rules.length > 0 ? SOON : false,
  });
}

type To = Schema['SwitchTo'];

const BACK: Record<To, To> = { on: 'off', off: 'on', removed: 'brought_back', brought_back: 'removed' };
const DONE: Record<To, string> = {
  on: 'switched on',
  off: 'switched off',
  removed: 'removed',
  brought_back: 'brought back',
};

/** Making, changing and switching rules. What was done can be undone from the notice that tells of it. */
export function useRuleActions(site: number) {
  const refresh = useRefresh(site);
  const switched = (rules: number[], to: To) =>
    answer(api.POST('/api/sites/{site}/rules/switch', { params: { path: { site } }, body: { rules, to } }));
  const put = (rule: number, body: Rule) =>
    answer(api.PUT('/api/sites/{site}/rules/{rule}', { params: { path: { site, rule } }, body }));
  const undoing = (undo: () => Promise<unknown>) => ({
    text: 'Undo',
    press: () =>
      void undo()
        .then(refresh)
        .catch((error: Error) => say({ text: error.message, isError: true })),
  });
  const toggle = useMutation({
    mutationFn: ({ rules, to }: { rules: number[]; to: To }) => switched(rules, to),
    onSuccess: async ({ rules }, { to }) => {
      say({ text: `${count(rules.length, 'rule')} ${DONE[to]}.`, act: undoing(() => switched(rules, BACK[to])) });
      await refresh();
    },
  });
  const make = useMutation({
    mutationFn: (rules: Rule[]) =>
      answer(api.POST('/api/sites/{site}/rules', { params: { path: { site } }, body: rules })),
    onSuccess: async ({ numbers }) => {
      say({ text: `${count(numbers.length, 'rule')} made.`, act: undoing(() => switched(numbers, 'removed')) });
      await refresh();
    },
  });
  const change = useMutation({
    mutationFn: ({ number, rule }: { number: number; rule: Rule; before: Rule }) => put(number, rule),
    onSuccess: async (_, { number, before }) => {
      say({ text: 'The rule is changed.', act: undoing(() => put(number, before)) });
      await refresh();
    },
  });
  const setLimits = useMutation({
    mutationFn: (body: Schema['RuleLimitsWish']) =>
      answer(api.PUT('/api/sites/{site}/rules/limits', { params: { path: { site } }, body })),
    onSuccess: async () => {
      say({ text: 'Saved. The places of all rules are counted anew.' });
      await refresh();
    },
  });
  const pass = useMutation({
    mutationFn: (body: Schema['ExceptionsWish']) =>
      answer(api.POST('/api/sites/{site}/rules/exceptions', { params: { path: { site } }, body })),
    onSuccess: async (_, { places, are_passed }) => {
      const back = () =>
        answer(
          api.POST('/api/sites/{site}/rules/exceptions', {
            params: { path: { site } },
            body: { places, are_passed: !are_passed },
          }),
        );
      const text = are_passed
        ? `Passed. The rule does not link ${places.length === 1 ? 'there' : 'in these places'} any more.`
        : 'Brought back.';
      say({ text, act: undoing(back) });
      await refresh();
    },
  });
  return { toggle, make, change, setLimits, pass };
}
