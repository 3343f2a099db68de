/** Ctrl+K: anything that has a name or a number, and every action. */
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { client, got, type Hit } from "../api/client";
import * as files from "../api/downloads";
import { useBundleJob, useWork } from "../api/jobs";
import { may, useSession, useSignOut } from "../api/session";
import { toggleTheme } from "../ui/theme";
import { Calls } from "./calls";

export interface Action {
	title: string;
	run: () => void;
}

export function Palette({ fabric, actions = [] }: { fabric?: string; actions?: Action[] }) {
	const [open, setOpen] = useState(false);
	const [words, setWords] = useState("");
	const [showCalls, setShowCalls] = useState(false);
	const navigate = useNavigate();
	const download = files.useDownload();
	const { data: who } = useSession();
	const out = useSignOut();
	const makeBundle = useBundleJob(fabric ?? "");
	const work = useWork(fabric ?? "");
	const asked = useLate(words.trim(), 120);
	const found = useQuery({
		queryKey: ["search", asked],
		queryFn: () => got(client.GET("/api/v1/search", { params: { query: { q: asked } } })),
		enabled: open && asked.length > 0,
		placeholderData: (before) => before,
	});

	useEffect(() => {
		const onKey = (event: KeyboardEvent) => {
			if (event.key.toLowerCase() === "k" && (event.ctrlKey || event.metaKey)) {
				event.preventDefault();
				setOpen((was) => !was);
			}
		};
		addEventListener("keydown", onKey);
		return () => removeEventListener("keydown", onKey);
	}, []);

	const close = (then: () => void) => {
		setOpen(false);
		setWords("");
		setShowCalls(false);
		then();
	};
	const go = (to: string) => ({ title: "", run: () => navigate(to) });
	const everywhere: Action[] = [
		...(fabric
			? [
					{ ...go(`/f/${fabric}/brief`), title: "Open the brief" },
					{ ...go(`/f/${fabric}/brief?text=1`), title: "Edit the brief as text" },
					{ ...go(`/f/${fabric}/ledger`), title: "Open the ledger" },
					{ ...go(`/f/${fabric}/segments`), title: "Open the segments and hosts" },
					{ title: "Hosts as a sheet (.xlsx)", run: () => void download(files.hostsSheet(fabric, "xlsx")) },
					{ ...go(`/f/${fabric}/configs`), title: "Open the configurations" },
					{ ...go(`/f/${fabric}/cabling`), title: "Open the cabling plan" },
					{ title: "Download the bundle (.zip)", run: () => void download(files.bundle(fabric, "zip")) },
					{
						title: "Download the bundle (.tar.gz)",
						run: () => void download(files.bundle(fabric, "tar.gz")),
					},
					{
						title: "Download the cabling plan (CSV)",
						run: () => void download(files.cablingCsv(fabric)),
					},
					{ title: "Download the numbers (CSV)", run: () => void download(files.numbersCsv(fabric)) },
					{
						title: "Download the numbers (XLSX)",
						run: () => void download(files.numbersSheet(fabric)),
					},
					{
						title: "Download the DNS zones (.zip)",
						run: () => void download(files.addressRecords(fabric, "zip")),
					},
					{
						title: "Download the hosts file",
						run: () => void download(files.addressRecords(fabric, "hosts")),
					},
					{ title: "Make the bundle in the background", run: () => makeBundle.mutate("zip") },
					{ title: "Read all files back in the background", run: () => work.mutate("read back") },
					{ title: "Hold all files to the real programs", run: () => work.mutate("deep check") },
					{ title: "Make all sheets in the background", run: () => work.mutate("sheets") },
					{ ...go(`/f/${fabric}/ledger/import`), title: "Import a numbering plan" },
					{ title: "Download the brief (YAML)", run: () => void download(files.briefText(fabric)) },
				]
			: []),
		...actions,
		{ title: "All fabrics", run: () => navigate("/") },
		{ title: "Own page", run: () => navigate("/me") },
		{ title: "Jobs", run: () => navigate("/jobs") },
		{ title: "Office: settings, variables, languages of your own", run: () => navigate("/office") },
		{ title: "Catalogue of switch models", run: () => navigate("/catalogue") },
		...(may(who, "people") ? [{ title: "People and what they may do", run: () => navigate("/people") }] : []),
		...(may(who, "record") ? [{ title: "The record of who did what", run: () => navigate("/record") }] : []),
		...(may(who, "people") ? [{ title: "Who is told outside", run: () => navigate("/outlets") }] : []),
		{ title: "Every call of the API", run: () => navigate("/reference") },
		{ title: "Sign out", run: () => out.mutate() },
		{ title: "Light or dark", run: toggleTheme },
	];
	const wanted = words.trim().toLowerCase();
	const matching = everywhere.filter((action) => action.title.toLowerCase().includes(wanted));
	const hits = asked === "" ? [] : (found.data ?? []);

	return (
		<Command.Dialog
			open={open}
			onOpenChange={(now) => (now ? setOpen(true) : close(() => undefined))}
			label="Search and commands"
			shouldFilter={false}
			overlayClassName="fixed inset-0 z-40 bg-ink/20"
			contentClassName="fixed top-24 left-1/2 z-50 w-[600px] -translate-x-1/2 rounded-[4px] border border-hair bg-raised shadow-md"
		>
			<Command.Input
				value={words}
				onValueChange={setWords}
				placeholder="A switch, rack, address, ASN, VLAN, VNI, cable, /22, or action…"
				className="w-full border-b border-hair bg-transparent px-5 py-3 text-[15px] outline-none placeholder:text-soft"
			/>
			<Command.List className="max-h-[420px] overflow-y-auto px-2 py-2">
				{showCalls ? (
					<Calls />
				) : (
					<>
						<Command.Empty className="px-3 py-4 text-soft">
							Nothing is called “{words}”. Try part of a name, an address, or a cable label.
						</Command.Empty>
						{hits.map((hit) => (
							<Row
								key={`${hit.kind} ${hit.fabric} ${hit.target}`}
								onSelect={() => close(() => navigate(hitPath(hit, fabric)))}
							>
								<span className="mono w-44 flex-none truncate font-semibold">{hit.title}</span>
								<span className="truncate">{hit.detail}</span>
								<span className="ml-auto flex-none text-soft">
									{[hit.kind, hit.fabric].filter(Boolean).join(", ")}
								</span>
							</Row>
						))}
						{matching.map((action) => (
							<Row key={action.title} onSelect={() => close(action.run)}>
								{action.title}
							</Row>
						))}
						{"show the api calls of this page".includes(wanted) && (
							<Row onSelect={() => setShowCalls(true)}>Show the API calls of this page</Row>
						)}
					</>
				)}
			</Command.List>
		</Command.Dialog>
	);
}

function Row({ children, onSelect }: { children: React.ReactNode; onSelect: () => void }) {
	return (
		<Command.Item
			onSelect={onSelect}
			className="flex cursor-pointer items-baseline gap-3 rounded-[3px] px-3 py-1.5 data-[selected=true]:bg-chosen"
		>
			{children}
		</Command.Item>
	);
}

function hitPath(hit: Hit, open = ""): string {
	const [pool, number] = hit.target.split("#");
	switch (hit.kind) {
		case "switch":
			return `/f/${hit.fabric}/configs/${hit.target}`;
		case "cable":
			return `/f/${hit.fabric}/cabling?cable=${hit.target}`;
		case "rack":
			return `/f/${hit.fabric}/ledger?of=${hit.target}`;
		case "number":
			return `/f/${hit.fabric || open}/ledger?pool=${pool}&number=${encodeURIComponent(number ?? "")}`;
		default:
			return `/f/${hit.target}/brief`;
	}
}

function useLate(value: string, wait: number): string {
	const [late, setLate] = useState(value);
	useEffect(() => {
		const timer = setTimeout(() => setLate(value), wait);
		return () => clearTimeout(timer);
	}, [value, wait]);
	return late;
}
