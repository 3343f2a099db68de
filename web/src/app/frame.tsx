/** The frame of a fabric: the street along the top, the bench in the middle, the ripple strip along the bottom. */
import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef } from "react";
import { Link, NavLink, Outlet, useLocation, useNavigate, useParams } from "react-router";
import { type Fabric, Failure } from "../api/client";
import { useChange } from "../api/edits";
import { useFabric, useGrowth, useVersion } from "../api/queries";
import { useMay } from "../api/session";
import { Me } from "../door/me";
import { useDriftCounts } from "../drift/queries";
import { useEditions } from "../editions/queries";
import { Share } from "../people/share";
import { useRehearsals } from "../rehearsal/queries";
import { inAWord, isBad } from "../rehearsal/sign";
import { inShort } from "../staging/line";
import { useStaging } from "../staging/queries";
import { Home } from "../ui/home";
import { isTyping } from "../ui/keys";
import { useNotices } from "../ui/notices";
import { counted, day } from "../ui/words";
import { Boundary } from "./boundary";
import { Palette } from "./palette";
import { Others, Present } from "./present";
import { RippleStrip } from "./ripple";

const Mend = lazy(() => import("../brief/mend"));

const STEPS = [
	"brief",
	"ledger",
	"segments",
	"configs",
	"cabling",
	"rehearsal",
	"editions",
	"staging",
	"drift",
] as const;

export function FabricFrame() {
	const { fabric: name = "" } = useParams();
	const found = useFabric(name);
	if (found.error instanceof Failure && found.error.problem.status === 422)
		return (
			<Suspense>
				<Mend name={name} />
			</Suspense>
		);
	if (found.error) return <Lost message={found.error.message} />;
	if (!found.data) return <div className="p-8 text-soft">Opening {name}…</div>;
	return <Frame fabric={found.data} />;
}

function Lost({ message }: { message: string }) {
	return (
		<main className="p-10">
			<h1 className="mb-2 text-lg font-bold">{message}</h1>
			<Link className="button-plain" to="/">
				See all fabrics
			</Link>
		</main>
	);
}

function Frame({ fabric }: { fabric: Fabric }) {
	const change = useChange(fabric.name);
	const { pathname } = useLocation();
	useNewerVersion(fabric);
	const may = useMay("edit", fabric.name);
	useFrameKeys(fabric, (kind) => may && change.mutate({ kind }));
	useEffect(() => {
		document.title = `${fabric.title || fabric.name} · Barrio`;
	}, [fabric.title, fabric.name]);
	return (
		<Present fabric={fabric.name} step={pathname.split("/")[3] ?? "brief"}>
			<div className="grid h-dvh grid-cols-[minmax(0,1fr)] grid-rows-[60px_1fr_40px]">
				<Street fabric={fabric} />
				<div className="flex min-h-0 min-w-0">
					<Boundary key={pathname}>
						<Suspense fallback={<div className="p-8 text-soft">Opening…</div>}>
							<Outlet context={fabric} />
						</Suspense>
					</Boundary>
				</div>
				<RippleStrip fabric={fabric} onChange={(kind) => change.mutate({ kind })} busy={change.isPending} />
				<Palette
					fabric={fabric.name}
					actions={[
						...(fabric.undo && may
							? [{ title: `Undo “${fabric.undo}”`, run: () => change.mutate({ kind: "undo" }) }]
							: []),
						...(fabric.redo && may
							? [{ title: `Redo “${fabric.redo}”`, run: () => change.mutate({ kind: "redo" }) }]
							: []),
					]}
				/>
			</div>
		</Present>
	);
}

function Street({ fabric }: { fabric: Fabric }) {
	const { pathname } = useLocation();
	const mine = new Set(fabric.numbers.map((use) => use.pool));
	const growth = useGrowth(fabric.name, fabric.version).data?.rows ?? [];
	const editions = useEditions(fabric.name).data;
	const newest = editions?.[0]?.number ?? 0;
	const rehearsed = useRehearsals(fabric).data?.[0];
	const staged = useStaging(fabric, newest > 0).data;
	const drift = useDriftCounts(fabric, newest > 0).data;
	const low = new Set(growth.filter((row) => row.low || row.short).map((row) => row.pool));
	const state = {
		brief: fabric.findings.length ? counted(fabric.findings.length, "finding") : "all ports fit",
		ledger: low.size
			? `${counted(low.size, "pool")} ${low.size === 1 ? "runs" : "run"} low`
			: counted(mine.size, "pool"),
		segments: `${counted(Object.keys(fabric.brief.segments ?? {}).length, "segment")}`,
		configs: counted(fabric.sums.switches, "switch", "switches"),
		cabling: counted(fabric.sums.cables, "link"),
		rehearsal: rehearsed ? inAWord(rehearsed) : "not rehearsed",
		editions: newest ? `${newest}, last ${day(editions?.[0]?.sealed_at ?? "")}` : "none yet",
		staging: inShort(staged, newest),
		drift: !drift?.looked ? "not seen yet" : drift.wrong ? `${drift.wrong} not as meant` : "all as meant",
	};
	const bad = {
		brief: fabric.findings.length > 0,
		ledger: low.size > 0,
		segments: false,
		configs: false,
		cabling: false,
		rehearsal: rehearsed !== undefined && isBad(rehearsed),
		editions: false,
		staging: staged?.switches.some((one) => one.state === "failed") ?? false,
		drift: (drift?.wrong ?? 0) > 0,
	};
	return (
		<header className="flex min-w-0 items-end gap-5 overflow-x-auto overflow-y-hidden border-b border-hair pr-5.5 pl-5 max-sm:pl-3">
			<Home />
			<div className="truncate pb-3.5 text-soft">
				<b className="font-semibold text-ink">{capital(fabric.name)}</b>, draft
				{newest > 0 && ` of edition ${newest + 1}`}
			</div>
			<Share fabric={fabric.name} />
			<Others fabric={fabric.name} />
			<nav aria-label="Steps" className="ml-auto flex h-[60px] flex-none">
				{STEPS.map((step) => (
					<NavLink
						key={step}
						to={`/f/${fabric.name}/${step}`}
						className="group relative min-w-[78px] px-[13px] pt-[11px]"
					>
						{({ isActive: open }) => {
							// The Ladder is where configurations are settled.
							const isActive = open || (step === "configs" && pathname.endsWith("/ladder"));
							return (
								<>
									<b className={isActive ? "font-bold text-indigo" : "font-[560]"}>{capital(step)}</b>
									<small
										className={`mt-px block text-[11px] leading-tight ${bad[step] ? "text-madder" : "text-soft"}`}
									>
										{state[step]}
									</small>
									{isActive && <span className="stitched absolute right-[13px] -bottom-px left-[13px] h-1" />}
								</>
							);
						}}
					</NavLink>
				))}
			</nav>
			<Me />
		</header>
	);
}

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** Another tab or person changed the fabric: say so, and show the newer draft. */
function useNewerVersion(fabric: Fabric) {
	const { data } = useVersion(fabric.name);
	const { refetch } = useFabric(fabric.name);
	const { tell } = useNotices();
	const told = useRef(0);
	const queries = useQueryClient();
	useEffect(() => {
		// What is at hand may be newer than what is shown yet: a change of one's own is no news.
		const known = queries.getQueryData<Fabric>(["fabric", fabric.name])?.version ?? fabric.version;
		if (!data || data.version <= known || told.current >= data.version) return;
		told.current = data.version;
		void refetch().then(({ data: newer }) => {
			if (newer)
				tell({
					tone: "changed",
					text: `${capital(newer.name)} was changed in another window: “${newer.note}”. This is the newer draft.`,
				});
		});
	}, [data, fabric.name, fabric.version, queries, refetch, tell]);
}

function useFrameKeys(fabric: Fabric, act: (kind: "undo" | "redo") => void) {
	const navigate = useNavigate();
	useEffect(() => {
		const onKey = (event: KeyboardEvent) => {
			if (isTyping(event)) return;
			const control = event.ctrlKey || event.metaKey;
			if (control && event.key.toLowerCase() === "z") {
				event.preventDefault();
				if (event.shiftKey ? fabric.redo : fabric.undo) act(event.shiftKey ? "redo" : "undo");
			} else if (!control && !event.altKey && /^[1-6]$/.test(event.key)) {
				navigate(`/f/${fabric.name}/${STEPS[Number(event.key) - 1]}`);
			}
		};
		addEventListener("keydown", onKey);
		return () => removeEventListener("keydown", onKey);
	}, [fabric, act, navigate]);
}
