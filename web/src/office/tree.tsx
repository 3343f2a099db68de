/** The targets there are, with the files of those that are the office's own; new ones are begun here. */
import { useState } from "react";
import { counted } from "../ui/words";
import { begun, ofTarget, SAID, saidFirst, targetsIn } from "./copy";
import { Learning } from "./learning";
import type { Files, Office, TargetRow } from "./queries";
import { Secrets } from "./secrets";

interface Props {
	office: Office;
	files: Files;
	dirty: string[];
	path: string;
	may: boolean;
	onOpen: (path: string) => void;
	onWrite: (path: string, text: string | null) => void;
}

const NAME = /^[a-z][a-z0-9-]{0,30}$/;

export function Tree({ office, files, dirty, path, may, onOpen, onWrite }: Props) {
	const [making, setMaking] = useState("");
	const rows = new Map(office.targets.map((one) => [one.name, one]));
	const shipped = office.targets.filter((one) => !one.own).map((one) => one.name);
	const names = [...new Set([...shipped, ...targetsIn(files)])];
	const make = (name: string) => {
		for (const [at, text] of Object.entries(begun(name))) onWrite(at, text);
		onOpen(`targets/${name}/target.yaml`);
		setMaking("");
	};
	return (
		<nav aria-label="Targets" className="w-[218px] flex-none overflow-y-auto border-r border-hair py-3">
			<section className="mb-4">
				<h2 className="px-4 font-bold">Every fabric</h2>
				<p className="px-4 text-[12px] text-soft">settings and variables</p>
				{SAID in files ? (
					<FileButton at={SAID} path={path} dirty={dirty} onOpen={onOpen} />
				) : (
					may && (
						<button
							type="button"
							className="button-plain px-4"
							onClick={() => {
								onWrite(SAID, saidFirst);
								onOpen(SAID);
							}}
						>
							Say something
						</button>
					)
				)}
				<div>
					<Secrets may={may} />
				</div>
			</section>
			{names.map((name) => (
				<section key={name} className="mb-4">
					<h2 className="px-4 font-bold">{name}</h2>
					<p className="px-4 text-[12px] text-soft">{used(rows.get(name))}</p>
					<ul>
						{Object.keys(ofTarget(files, name))
							.sort(
								(one, other) =>
									Number(other === "target.yaml") - Number(one === "target.yaml") || one.localeCompare(other),
							)
							.map((file) => {
								const at = `targets/${name}/${file}`;
								return (
									<li key={file}>
										<FileButton at={at} path={path} dirty={dirty} onOpen={onOpen} />
									</li>
								);
							})}
					</ul>
					{may && rows.get(name)?.own !== false && (
						<>
							<NewFile name={name} taken={files} onWrite={onWrite} onOpen={onOpen} />
							<Learning
								target={name}
								taken={Object.keys(ofTarget(files, name))}
								onTake={(file, text) => {
									onWrite(`targets/${name}/${file}`, text);
									onOpen(`targets/${name}/${file}`);
								}}
							/>
						</>
					)}
				</section>
			))}
			{may && (
				<form
					className="px-4"
					onSubmit={(event) => {
						event.preventDefault();
						if (NAME.test(making) && !names.includes(making)) make(making);
					}}
				>
					<input
						className="field w-full"
						aria-label="A new target's name"
						placeholder="a new target…"
						value={making}
						onChange={(event) => setMaking(event.target.value)}
					/>
					{making !== "" && !NAME.test(making) && (
						<p className="text-[12px] text-madder">Small letters, digits and dashes, a letter first.</p>
					)}
					{names.includes(making) && <p className="text-[12px] text-madder">There is one of that name.</p>}
				</form>
			)}
		</nav>
	);
}

function FileButton({ at, path, dirty, onOpen }: Pick<Props, "path" | "dirty" | "onOpen"> & { at: string }) {
	return (
		<button
			type="button"
			aria-current={at === path}
			className={`mono min-h-6 w-full px-6 py-0.5 text-left ${at === path ? "bg-chosen font-bold" : "hover:bg-raised"}`}
			onClick={() => onOpen(at)}
		>
			{at.split("/").at(-1)}
			{dirty.includes(at) && <span className="text-weld-ink"> changed</span>}
		</button>
	);
}

function NewFile({
	name,
	taken,
	onWrite,
	onOpen,
}: {
	name: string;
	taken: Files;
	onWrite: Props["onWrite"];
	onOpen: Props["onOpen"];
}) {
	const [file, setFile] = useState("");
	const at = `targets/${name}/${file}`;
	return (
		<form
			className="px-6"
			onSubmit={(event) => {
				event.preventDefault();
				if (!/^[A-Za-z0-9_][A-Za-z0-9_.-]*\.j2$/.test(file) || at in taken) return;
				onWrite(at, "");
				onOpen(at);
				setFile("");
			}}
		>
			<input
				className="mono min-h-6 w-full bg-transparent py-0.5 text-soft"
				aria-label={`A new template of ${name}`}
				placeholder="another.j2…"
				value={file}
				onChange={(event) => setFile(event.target.value)}
			/>
		</form>
	);
}

function used(row: TargetRow | undefined): string {
	if (!row) return "not saved yet";
	const fabrics = Object.keys(row.users);
	if (!fabrics.length) return row.own ? "no fabric uses it" : "ships with Barrio";
	const switches = Object.values(row.users).reduce((sum, count) => sum + count, 0);
	return `${counted(switches, "switch", "switches")} in ${fabrics.length < 3 ? fabrics.join(" and ") : counted(fabrics.length, "fabric")}`;
}
