import { Dialog } from '../parts/Dialog.tsx';

const GROUPS: { title: string; keys: [string[], string][] }[] = [
  {
    title: 'Everywhere',
    keys: [
      [['/'], 'find anything (also Ctrl K)'],
      [
        ['G', 'T'],
        'go to Today; P, R, E, F, L, H and S: Pages, Reach, Equity, Flow, Rules, History, Setup (on the Desk: Shift G)',
      ],
      [['U'], 'undo your latest decision'],
      [['Shift', 'U'], 'do it again'],
      [['?'], 'this sheet'],
      [['Esc'], 'close what is open'],
    ],
  },
  {
    title: 'Desk',
    keys: [
      [['J'], 'next opening'],
      [['K'], 'previous opening'],
      [['T'], 'take it'],
      [['P'], 'pass it on this page'],
      [['Shift', 'P'], 'choose how much is passed'],
      [['R'], 'reasons for its fit'],
      [['W'], 'other words, or another place'],
      [['G'], 'another target'],
      [['E'], 'edit the sentence'],
      [['B'], 'take the best'],
      [['Enter'], 'on a picture of the page: link it'],
      [['N'], 'next page with openings'],
      [['I'], 'work on what leads in'],
      [['O'], 'work on where it leads out'],
    ],
  },
  {
    title: 'Today',
    keys: [
      [['J'], 'next link with a fault'],
      [['K'], 'previous link with a fault'],
      [['F'], 'point it to the proposed page'],
      [['X'], 'take it off its words'],
    ],
  },
  {
    title: 'Reach',
    keys: [
      [['←', '→'], 'next page in the band'],
      [['↑', '↓'], 'the band above, below'],
      [['Enter'], 'its facts'],
      [['Z'], 'zoom into its band, and out'],
    ],
  },
  {
    title: 'Rules',
    keys: [
      [['N'], 'a new rule'],
      [['↓', '↑'], 'next, previous rule'],
      [['Enter'], 'open it'],
    ],
  },
  {
    title: 'Pages',
    keys: [
      [['↓', '↑'], 'next, previous page'],
      [['Enter'], 'open its Desk'],
      [['Space'], 'select it'],
      [['Shift', '↓'], 'select on from it'],
      [['Ctrl', 'A'], 'select all that is shown'],
      [['Ctrl', 'C'], 'copy what is selected as a table'],
    ],
  },
];

/** All keys. */
export function KeySheet({ close }: { close: () => void }) {
  return (
    <Dialog title="Keys" close={close} width="max-w-3xl">
      <div className="grid gap-x-8 gap-y-4 p-4 sm:grid-cols-3">
        {GROUPS.map((group) => (
          <section key={group.title}>
            <h3 className="mb-1 font-semibold">{group.title}</h3>
            <dl className="grid grid-cols-[auto_1fr] items-baseline gap-x-3 gap-y-1.5">
              {group.keys.map(([keys, meaning]) => (
                <div key={meaning} className="contents">
                  <dt className="whitespace-nowrap">
                    {keys.map((key) => (
                      <kbd key={key} className="kbd kbd-sm mr-0.5">
                        {key}
                      </kbd>
                    ))}
                  </dt>
                  <dd>{meaning}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Dialog>
  );
}
