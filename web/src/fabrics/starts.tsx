/** The ways to begin a fabric, one part each; all end in the text of a brief that is looked over before it is made. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Failure, got, type Started } from "../api/client";
import { useFabrics } from "../api/queries";
import { Refusal } from "../app/refusal";
import { LineField, useCompletion } from "../brief/prose/line";
import { Comes, Keep, Labelled, type StartProps } from "./parts";

export function Blank({ make, busy }: StartProps) {
	const [name, setName] = useState("");
	const [title, setTitle] = useState("");
	return (
		<form
			className="flex max-w-[460px] flex-col gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				make({ name: name.trim(), title });
			}}
		>
			<Labelled label="Name, short and lower case; it stays">
				<input
					className="field mono"
					value={name}
					onChange={(event) => setName(event.target.value)}
					placeholder="marlin"
					required
				/>
			</Labelled>
			<Labelled label="Title, for people">
				<input
					className="field"
					value={title}
					onChange={(event) => setTitle(event.target.value)}
					placeholder="Marlin, the models hall"
				/>
			</Labelled>
			<button type="submit" className="button-main self-start" disabled={busy}>
				Make the fabric
			</button>
		</form>
	);
}

export function InWords({ make, busy }: StartProps) {
	const [line, setLine] = useState("");
	const [name, setName] = useState("");
	const found = useCompletion(line);
	const text = found?.text ?? "";
	const ready = text !== "" && Boolean(name.trim() || /^\s*[a-z][a-z0-9-]*\s*:/.test(line));
	const take = () => ready && make({ text: text, name: name.trim() || undefined });
	return (
		<div className="flex flex-col gap-3">
			<p className="text-soft">
				Say it as you would to a colleague, with commas between: counts, models, racks, pairs, routing.
			</p>
			<LineField value={line} onChange={setLine} onTake={take} />
			{found?.sums && <Comes sums={found.sums} />}
			<Keep name={name} setName={setName} ready={ready} busy={busy} onMake={take} />
		</div>
	);
}

export function FatTree({ make, busy }: StartProps) {
	const [k, setK] = useState("16");
	const [name, setName] = useState("");
	const tree = useMutation<Started, Failure, number>({
		mutationFn: (ports) =>
			got(client.POST("/api/v1/fat-tree", { body: { k: ports, model: "cantera-c48", name: "fat-tree" } })),
	});
	return (
		<div className="flex flex-col gap-3">
			<p className="max-w-[64ch] text-soft">
				A k-ary fat tree: k pods of like switches with k ports, k³/4 hosts, and as much bandwidth at the top
				as at the bottom (Al-Fares and others, 2008).
			</p>
			<div className="flex items-end gap-4">
				<Labelled label="k, ports of each switch, 4 to 48">
					<input className="field mono w-28" value={k} onChange={(event) => setK(event.target.value)} />
				</Labelled>
				<button type="button" className="button-plain" onClick={() => tree.mutate(Number(k))}>
					Work it out
				</button>
			</div>
			{tree.error && <Refusal failure={tree.error} />}
			{tree.data && (
				<>
					<Comes sums={tree.data.sums} />
					<Keep
						name={name}
						setName={setName}
						ready={Boolean(name.trim())}
						busy={busy}
						onMake={() => make({ text: tree.data.text, name: name.trim() || undefined })}
					/>
				</>
			)}
		</div>
	);
}

export function Imported({ make, busy }: StartProps) {
	const [name, setName] = useState("");
	const [text, setText] = useState("");
	const read = useMutation<Started, Failure, Blob>({
		mutationFn: (sheet) =>
			got(
				client.POST("/api/v1/imports", {
					params: { query: { name: "imported" } },
					body: sheet as unknown as string,
					bodySerializer: () => sheet,
				}),
			),
		onSuccess: (found) => setText(found.text),
	});
	return (
		<div className="flex flex-col gap-3">
			<p className="max-w-[70ch] text-soft">
				A sheet of links (CSV: switch, port, switch, port) or a network topology as RFC 8345 JSON. Barrio
				tells spines, leaves and pods from who is linked to whom, and shows what it understood before anything
				is made.
			</p>
			<input
				type="file"
				accept=".csv,.json,.graphml,.xml,.dot,.gv,text/csv,application/json"
				aria-label="Sheet of links"
				onChange={(event) => {
					const file = event.target.files?.[0];
					if (file) read.mutate(file);
				}}
			/>
			{read.error && <Refusal failure={read.error} />}
			{read.data && (
				<>
					<ul className="list-disc pl-5">
						{read.data.notes.map((note) => (
							<li key={note}>{note}</li>
						))}
					</ul>
					<Comes sums={read.data.sums} />
					<Labelled label="The brief it makes; change what was guessed wrong">
						<textarea
							className="field mono h-52"
							value={text}
							spellCheck={false}
							onChange={(event) => setText(event.target.value)}
						/>
					</Labelled>
					<Keep
						name={name}
						setName={setName}
						ready={Boolean(name.trim())}
						busy={busy}
						onMake={() => make({ text: text, name: name.trim() || undefined })}
					/>
				</>
			)}
		</div>
	);
}

export function Copied({ make, busy }: StartProps) {
	const fabrics = useFabrics().data ?? [];
	const [of, setOf] = useState("");
	const [name, setName] = useState("");
	const from = of || (fabrics[0]?.name ?? "");
	return (
		<div className="flex flex-col gap-3">
			<p className="max-w-[64ch] text-soft">
				The same brief under another name. Prefixes and VNIs that were pinned are drawn anew, since only one
				fabric may have them; cable labels get the new name.
			</p>
			<Labelled label="Copy of">
				<select className="field w-72" value={from} onChange={(event) => setOf(event.target.value)}>
					{fabrics.map((fabric) => (
						<option key={fabric.name} value={fabric.name}>
							{fabric.title || fabric.name}
						</option>
					))}
				</select>
			</Labelled>
			<Keep
				name={name}
				setName={setName}
				ready={Boolean(name.trim() && from)}
				busy={busy}
				onMake={() => make({ copyOf: from, name: name.trim() })}
			/>
		</div>
	);
}

export function Written({ make, busy }: StartProps) {
	const [text, setText] = useState("fabric: ");
	return (
		<form
			className="flex flex-col gap-3"
			onSubmit={(event) => {
				event.preventDefault();
				make({ text });
			}}
		>
			<Labelled label="The brief, as YAML">
				<textarea
					className="field mono h-64"
					value={text}
					onChange={(event) => setText(event.target.value)}
					spellCheck={false}
				/>
			</Labelled>
			<button type="submit" className="button-main self-start" disabled={busy}>
				Make the fabric
			</button>
		</form>
	);
}
