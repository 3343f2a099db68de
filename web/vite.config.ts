import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
	plugins: [react(), tailwindcss()],
	server: { proxy: { "/api": "http://127.0.0.1:8710" } },
	test: {
		environment: "jsdom",
		include: ["src/**/*.test.{ts,tsx}"],
		setupFiles: ["src/test.ts"],
		testTimeout: 60_000,
		// One page for all files, emptied after each claim: to make a new one takes longer than most claims.
		isolate: false,
		pool: "threads",
		restoreMocks: true,
	},
});
