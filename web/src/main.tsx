import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { Failure } from "./api/client";
import { BriefScreen } from "./brief/screen";
import { CablingScreen } from "./cabling/screen";
import { CatalogueScreen } from "./catalogue/screen";
import { ConfigsScreen } from "./configs/screen";
import { FabricList } from "./fabrics/screen";
import { ImportScreen } from "./ledger/importing";
import { PastScreen } from "./ledger/past";
import { LedgerScreen } from "./ledger/screen";
import "./theme.css";
import { NoticeBoard } from "./ui/notices";
import { FabricFrame } from "./ui/street";
import { applyTheme } from "./ui/theme";

applyTheme();

const queries = new QueryClient({
	defaultOptions: {
		queries: {
			staleTime: 30_000,
			retry: (count, error) => count < 2 && !(error instanceof Failure && error.problem.status > 0),
		},
	},
});

const root = document.getElementById("root");
if (root)
	createRoot(root).render(
		<StrictMode>
			<QueryClientProvider client={queries}>
				<NoticeBoard>
					<BrowserRouter>
						<Routes>
							<Route index element={<FabricList />} />
							<Route path="f/:fabric" element={<FabricFrame />}>
								<Route index element={<Navigate to="brief" replace />} />
								<Route path="brief" element={<BriefScreen />} />
								<Route path="ledger" element={<LedgerScreen />} />
								<Route path="ledger/past" element={<PastScreen />} />
								<Route path="ledger/import" element={<ImportScreen />} />
								<Route path="configs/:target?" element={<ConfigsScreen />} />
								<Route path="cabling" element={<CablingScreen />} />
							</Route>
							<Route path="catalogue" element={<CatalogueScreen />} />
							<Route path="*" element={<Navigate to="/" replace />} />
						</Routes>
					</BrowserRouter>
				</NoticeBoard>
			</QueryClientProvider>
		</StrictMode>,
	);
