/** What was asked of the server and is kept on this device, so that it is there without a network too. */
import { useQuery } from "@tanstack/react-query";

const PREFIX = "kept ";

export function useKept<Found>(key: string, ask: () => Promise<Found>): Found | undefined {
	const { data } = useQuery<Found>({
		queryKey: ["kept", key],
		queryFn: async () => {
			const found = await ask();
			localStorage.setItem(PREFIX + key, JSON.stringify(found));
			return found;
		},
		enabled: key !== "",
		refetchInterval: 60_000,
	});
	if (data !== undefined || key === "") return data;
	const text = localStorage.getItem(PREFIX + key);
	return text ? (JSON.parse(text) as Found) : undefined;
}

/** Let go of what is kept here: whoever uses the device next may not see it. */
export function forget(): void {
	for (const key of Object.keys(localStorage)) if (key.startsWith(PREFIX)) localStorage.removeItem(key);
}
