/** What every address of the server begins with. */
export const API = "/api/v1";
