/** The software that a fabric has for its switches: what is there, and a file that is brought. */
import { useState } from "react";
import type { Fabric } from "../api/client";
import { useBring, useImages } from "./queries";

interface Props {
	fabric: Fabric;
	may: boolean;
}

export function Software({ fabric, may }: Props) {
	const { data } = useImages(fabric);
	const bring = useBring(fabric);
	const [file, setFile] = useState<File>();
	const [version, setVersion] = useState("");
	const [model, setModel] = useState("");
	return (
		<section aria-label="Software" className="mt-2 max-w-[76ch]">
			{data?.length ? (
				<ul>
					{data.map((one) => (
						<li key={`${one.version} ${one.model}`} className="flex flex-wrap items-baseline gap-x-3">
							<b className="font-[600]">{one.version}</b>
							<span>{one.model || "any model"}</span>
							<span className="text-soft">{size(one.size)}</span>
							<span className="mono text-[11.5px] text-soft" title={one.sha256}>
								{one.sha256.slice(0, 16)}
							</span>
							{may && (
								<button
									type="button"
									className="button-plain"
									aria-label={`Take ${one.version} for ${one.model || "any model"} out`}
									onClick={() => bring.mutate({ drop: one.version, model: one.model })}
								>
									Take it out
								</button>
							)}
						</li>
					))}
				</ul>
			) : (
				<p className="text-soft">
					There is no software here yet. A switch that runs another version than the brief asks for then waits
					for somebody.
				</p>
			)}
			{may && (
				<form
					className="mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1"
					onSubmit={(event) => {
						event.preventDefault();
						if (file) bring.mutate({ file, version: version.trim(), model: model.trim() });
					}}
				>
					<input
						type="file"
						aria-label="Software to bring"
						className="file-field"
						onChange={(event) => setFile(event.target.files?.[0])}
					/>
					is version
					<input
						aria-label="Its version"
						className="mono w-[12ch] border-indigo-line border-b bg-transparent"
						value={version}
						onChange={(event) => setVersion(event.target.value)}
					/>
					for
					<input
						aria-label="The model it is for"
						className="mono w-[16ch] border-indigo-line border-b bg-transparent"
						value={model}
						placeholder="any model"
						onChange={(event) => setModel(event.target.value)}
					/>
					<button
						type="submit"
						className="button-plain"
						disabled={!file || !version.trim() || bring.isPending}
					>
						{bring.isPending ? "It is brought…" : "Bring it"}
					</button>
				</form>
			)}
		</section>
	);
}

export function size(count: number): string {
	if (count >= 1e9) return `${(count / 1e9).toFixed(1)} GB`;
	return count >= 1e6 ? `${Math.round(count / 1e6)} MB` : `${Math.max(1, Math.round(count / 1e3))} KB`;
}
