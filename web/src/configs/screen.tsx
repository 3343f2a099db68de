/** Configurations: every switch, its files, and why each line is there. */
import { useCallback, useEffect } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useFile, useFiles, useSwitches } from "../api/queries";
import { useOpenFabric } from "../app/open";
import { useRows } from "../app/present";
import { KeysDialog, useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { FileActs } from "./acts";
import { Beside } from "./beside";
import { FileTabs } from "./files";
import { FoundLines } from "./found";
import { LineMargin } from "./margin";
import { SwitchList } from "./switches";
import { FileText } from "./text";

export function ConfigsScreen() {
	const fabric = useOpenFabric();
	const { target: named = "" } = useParams();
	const [place, goTo] = usePlace("file", "line", "find", "beside");
	const find = place.find ?? "";
	const beside = place.beside ?? "";
	const navigate = useNavigate();
	const switches = useSwitches(fabric.name, fabric.version).data ?? [];
	// Without a name in the address the first that is no spine is open; the address stays, and whoever looks for lines is not disturbed.
	const first = switches.find((one) => one.role !== "spine") ?? switches[0];
	const target = named || (first?.name ?? "");
	const current = switches.find((one) => one.name === target);
	const asked = useFiles(fabric.name, fabric.version, current?.name ?? "");
	const files = asked.error ? [] : (asked.data ?? []);
	const file = files.find((one) => one.path === place.file)?.path ?? files[0]?.path ?? "";
	const line = Number(place.line ?? 0);
	const text = useFile(fabric.name, fabric.version, current?.name ?? "", file).data;

	const open = useCallback(
		(name: string) => navigate(`/f/${fabric.name}/configs/${name}?file=${file}`),
		[navigate, fabric.name, file],
	);
	const others = useRows(fabric.name, "switch", target);

	useEffect(() => {
		if (named && !current && first) navigate(`/f/${fabric.name}/configs/${first.name}`, { replace: true });
	}, [named, current, first, fabric.name, navigate]);

	const choose = useCallback((next: number) => goTo({ file, line: String(next) }), [file, goTo]);
	const step = (by: number) => () => {
		const count = text?.lines.length ?? 0;
		if (count) choose(Math.max(1, Math.min(count, line + by)));
	};
	useKey("j", step(1));
	useKey("k", step(-1));
	const turn = (by: number) => () => {
		const next = switches[switches.findIndex((one) => one.name === target) + by];
		if (next) open(next.name);
	};
	useKey("]", turn(1));
	useKey("[", turn(-1));

	return (
		<>
			<SwitchList switches={switches} current={target} others={others} onOpen={open}>
				<input
					className="field mt-1.5 w-full"
					aria-label="Find in all files"
					placeholder="a line, or /expression/…"
					value={find}
					onChange={(event) => goTo({ file, find: event.target.value })}
				/>
				<Link className="button-plain mt-2 block" to={`/f/${fabric.name}/ladder`}>
					Ladder
				</Link>
			</SwitchList>
			<main className="flex min-w-0 flex-1 flex-col">
				{current && (
					<div className="flex items-center gap-4 border-b border-hair px-5 pt-2.5 pb-2">
						<h1 className="text-[17px] font-bold whitespace-nowrap">{current.name}</h1>
						<span className="truncate text-soft">
							rack {current.rack}, U{current.unit} · {current.model}
							{current.state && (
								<b
									className="text-madder"
									title={
										current.state === "planned later"
											? "These files are in no bundle yet"
											: "Its links and ports are shut; its numbers are kept"
									}
								>
									{" "}
									· {current.state}
								</b>
							)}
						</span>
						{files.length > 0 && (
							<FileTabs files={files} current={file} onOpen={(path) => goTo({ file: path })} />
						)}
					</div>
				)}
				{current && text && !asked.error && find.trim().length <= 1 && (
					<FileActs
						current={current}
						switches={switches}
						file={file}
						lines={text.lines}
						beside={beside}
						onBeside={(next) => goTo({ file, beside: next })}
						onOpen={open}
					/>
				)}
				{asked.error && (
					<div className="flex-1 p-5">
						<p className="max-w-[560px] border-l-2 border-madder pl-3">
							<b className="text-madder">There are no files for {current?.name}.</b> {asked.error.message}
						</p>
					</div>
				)}
				{find.trim().length > 1 ? (
					<FoundLines words={find} />
				) : beside && current && file ? (
					<Beside target={current.name} file={file} beside={beside} />
				) : (
					text && !asked.error && <FileText file={text} line={line} onChoose={choose} />
				)}
				<div className="flex gap-4 border-t border-hair px-5 py-1.5 text-[11.5px] text-soft">
					<span className="from-brief">from the brief</span>
					<span className="from-ledger">from the ledger</span>
					<span className="from-catalogue">from the hardware</span>
					<span className="ml-auto">
						<kbd>J</kbd> <kbd>K</kbd> line &nbsp; <kbd>[</kbd> <kbd>]</kbd> switch
					</span>
				</div>
			</main>
			<LineMargin target={target} file={file} line={line} />
			<KeysDialog
				here={[
					["J K", "next and previous line"],
					["[ ]", "previous and next switch"],
					["/", "find a switch"],
				]}
			/>
		</>
	);
}
