import '@fontsource-variable/public-sans';
import '@fontsource-variable/source-serif-4';
import './theme.css';

import { MutationCache, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { later } from './parts/later.ts';
import { say } from './parts/notices.ts';
import { ViewBoundary } from './parts/ViewBoundary.tsx';
import { FirstSite } from './window/FirstSite.tsx';
import { NoView } from './window/NoView.tsx';
import { SiteWindow } from './window/SiteWindow.tsx';
import { startTheme } from './window/theme.ts';

startTheme();

const AnchorsView = later(() => import('./views/anchors/AnchorsView.tsx').then((view) => view.AnchorsView));
const DeskView = later(() => import('./views/desk/DeskView.tsx').then((view) => view.DeskView));
const HistoryView = later(() => import('./views/history/HistoryView.tsx').then((view) => view.HistoryView));
const PhrasesView = later(() => import('./views/phrases/PhrasesView.tsx').then((view) => view.PhrasesView));
const PagesView = later(() => import('./views/pages/PagesView.tsx').then((view) => view.PagesView));
const AddSiteView = later(() => import('./views/setup/AddSiteView.tsx').then((view) => view.AddSiteView));
const DestinationsView = later(() =>
  import('./views/destinations/DestinationsView.tsx').then((view) => view.DestinationsView),
);
const EquityView = later(() => import('./views/equity/EquityView.tsx').then((view) => view.EquityView));
const FlowView = later(() => import('./views/flow/FlowView.tsx').then((view) => view.FlowView));
const ReachView = later(() => import('./views/reach/ReachView.tsx').then((view) => view.ReachView));
const RulesView = later(() => import('./views/rules/RulesView.tsx').then((view) => view.RulesView));
const RuleView = later(() => import('./views/rules/RuleView.tsx').then((view) => view.RuleView));
const RulePlacesView = later(() => import('./views/rules/RulePlacesView.tsx').then((view) => view.RulePlacesView));
const ProposedPhrasesView = later(() =>
  import('./views/rules/ProposedPhrasesView.tsx').then((view) => view.ProposedPhrasesView),
);
const RuleTableView = later(() => import('./views/rules/RuleTableView.tsx').then((view) => view.RuleTableView));
const EdgeView = later(() => import('./views/edge/EdgeView.tsx').then((view) => view.EdgeView));
const TodayView = later(() => import('./views/today/TodayView.tsx').then((view) => view.TodayView));
const SetupView = later(() => import('./views/setup/SetupView.tsx').then((view) => view.SetupView));

const queries = new QueryClient({
  // The journal says when something is out of date, so nothing is fetched again without a cause.
  defaultOptions: { queries: { staleTime: Number.POSITIVE_INFINITY, retry: 1, refetchOnWindowFocus: false } },
  mutationCache: new MutationCache({ onError: (error) => say({ text: error.message, isError: true }) }),
});

const root = document.getElementById('window');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Routes>
            <Route index element={<FirstSite />} />
            <Route
              path="add"
              element={
                <ViewBoundary>
                  <AddSiteView />
                </ViewBoundary>
              }
            />
            <Route path=":site" element={<SiteWindow />}>
              <Route index element={<Navigate to="today" replace />} />
              <Route path="today" element={<TodayView />} />
              <Route path="pages" element={<PagesView />} />
              <Route path="pages/:page" element={<DeskView />} />
              <Route path="phrases" element={<PhrasesView />} />
              <Route path="anchors" element={<AnchorsView />} />
              <Route path="destinations" element={<DestinationsView />} />
              <Route path="reach" element={<ReachView />} />
              <Route path="equity" element={<EquityView />} />
              <Route path="flow" element={<FlowView />} />
              <Route path="rules" element={<RulesView />} />
              <Route path="rules/places" element={<RulePlacesView />} />
              <Route path="rules/phrases" element={<ProposedPhrasesView />} />
              <Route path="rules/table" element={<RuleTableView />} />
              <Route path="rules/:rule" element={<RuleView />} />
              <Route path="edge" element={<EdgeView />} />
              <Route path="history" element={<HistoryView />} />
              <Route path="setup" element={<SetupView />} />
              <Route path="*" element={<NoView />} />
            </Route>
          </Routes>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
