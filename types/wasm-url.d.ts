/** Vite's addresses of assets. */
declare module '*.wasm?url' {
  const url: string;
  export default url;
}
