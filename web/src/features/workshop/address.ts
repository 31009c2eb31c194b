/** Whether what is sent to an address stays on this machine, as far as the address itself tells. */
export function staysHere(address: string): boolean {
  if (!address.trim()) return true;
  try {
    const { hostname } = new URL(address);
    return hostname === "localhost" || hostname === "[::1]" || /^127(\.\d{1,3}){3}$/.test(hostname);
  } catch {
    return true;
  }
}
