/// <reference types="vite/client" />

declare module '*/wasm_exec.js'
