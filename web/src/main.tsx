import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { type ComponentType, lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { Failure } from "./api/client";
import { Boundary } from "./app/boundary";
import { FabricList } from "./fabrics/screen";
import "./theme.css";
import { FabricFrame } from "./app/frame";
import { Signed } from "./door/signed";
import { NoticeBoard } from "./ui/notices";
import { applyTheme } from "./ui/theme";

applyTheme();

/** A screen that is loaded when it is opened. */
const screen = <Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) =>
	lazy(async () => ({ default: (await load())[name] }));

const AdoptScreen = screen(() => import("./adopt/screen"), "AdoptScreen");
const BriefScreen = screen(() => import("./brief/screen"), "BriefScreen");
const CablingScreen = screen(() => import("./cabling/screen"), "CablingScreen");
const CatalogueScreen = screen(() => import("./catalogue/screen"), "CatalogueScreen");
const RehearsalScreen = screen(() => import("./rehearsal/screen"), "RehearsalScreen");
const DriftScreen = screen(() => import("./drift/screen"), "DriftScreen");
const StagingScreen = screen(() => import("./staging/screen"), "StagingScreen");
const EditionsScreen = screen(() => import("./editions/screen"), "EditionsScreen");
const LadderScreen = screen(() => import("./ladder/screen"), "LadderScreen");
const ConfigsScreen = screen(() => import("./configs/screen"), "ConfigsScreen");
const ImportHosts = screen(() => import("./segments/importing"), "ImportHosts");
const ImportRacks = screen(() => import("./cabling/importing"), "ImportRacks");
const ImportScreen = screen(() => import("./ledger/importing"), "ImportScreen");
const LedgerScreen = screen(() => import("./ledger/screen"), "LedgerScreen");
const Back = screen(() => import("./door/back"), "Back");
const Enter = screen(() => import("./door/enter"), "Enter");
const JobsScreen = screen(() => import("./jobs/screen"), "JobsScreen");
const OfficeScreen = screen(() => import("./office/screen"), "OfficeScreen");
const OutletsScreen = screen(() => import("./outlets/screen"), "OutletsScreen");
const OwnPage = screen(() => import("./people/own"), "OwnPage");
const PeopleScreen = screen(() => import("./people/screen"), "PeopleScreen");
const ReferenceScreen = screen(() => import("./reference/screen"), "ReferenceScreen");
const RecordScreen = screen(() => import("./record/screen"), "RecordScreen");
const SegmentsScreen = screen(() => import("./segments/screen"), "SegmentsScreen");
const WorkList = screen(() => import("./cabling/worklist"), "WorkList");
const PastScreen = screen(() => import("./ledger/past"), "PastScreen");

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
						<Boundary>
							<Suspense>
								<Routes>
									<Route path="enter" element={<Enter />} />
									<Route path="back" element={<Back />} />
									<Route path="*" element={<Behind />} />
								</Routes>
							</Suspense>
						</Boundary>
					</BrowserRouter>
				</NoticeBoard>
			</QueryClientProvider>
		</StrictMode>,
	);

function Behind() {
	return (
		<Signed>
			<Suspense>
				<Routes>
					<Route index element={<FabricList />} />
					<Route path="me" element={<OwnPage />} />
					<Route path="jobs" element={<JobsScreen />} />
					<Route path="outlets" element={<OutletsScreen />} />
					<Route path="people" element={<PeopleScreen />} />
					<Route path="record" element={<RecordScreen />} />
					<Route path="reference" element={<ReferenceScreen />} />
					<Route path="f/:fabric/work" element={<WorkList />} />
					<Route path="f/:fabric" element={<FabricFrame />}>
						<Route index element={<Navigate to="brief" replace />} />
						<Route path="brief" element={<BriefScreen />} />
						<Route path="ledger" element={<LedgerScreen />} />
						<Route path="ledger/past" element={<PastScreen />} />
						<Route path="segments/import" element={<ImportHosts />} />
						<Route path="ledger/import" element={<ImportScreen />} />
						<Route path="segments" element={<SegmentsScreen />} />
						<Route path="configs/:target?" element={<ConfigsScreen />} />
						<Route path="ladder" element={<LadderScreen />} />
						<Route path="cabling/import" element={<ImportRacks />} />
						<Route path="cabling" element={<CablingScreen />} />
						<Route path="rehearsal" element={<RehearsalScreen />} />
						<Route path="staging" element={<StagingScreen />} />
						<Route path="drift" element={<DriftScreen />} />
						<Route path="editions" element={<EditionsScreen />} />
					</Route>
					<Route path="adopt/:fabric" element={<AdoptScreen />} />
					<Route path="office" element={<OfficeScreen />} />
					<Route path="catalogue" element={<CatalogueScreen />} />
					<Route path="*" element={<Navigate to="/" replace />} />
				</Routes>
			</Suspense>
		</Signed>
	);
}
