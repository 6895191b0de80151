/** Where the build is served as users get it, with the whole demo. */
export const SHIPPED_PORT = 4872;
export const SHIPPED = `http://localhost:${SHIPPED_PORT}`;
