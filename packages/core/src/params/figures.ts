/**
 * What people type for a number: `1.5`, `−2,5 EV`, `50 + 12.5`, `3 * (40 − 4) px`. Letters and signs behind the last figure are its unit and do not count.
 * NaN if it cannot be read or has no finite result.
 */
export function figureOf(text: string): number {
  const plain = text.replace(/[−–]/g, '-').replace(/[×·]/g, '*').replace(/÷/g, '/').replace(/(\d),(\d)/g, '$1.$2').trim().replace(/[a-z°%′"\s]+$/i, '');
  const parts = plain.match(/\d*\.?\d+(?:e[-+]?\d+)?|\d+\.|[-+*/()]|\S/gi) ?? [];
  let at = 0;
  const value = (): number => {
    const part = parts[at++];
    if (part === '-') return -value();
    if (part === '+') return value();
    if (part === '(') {
      const inside = sum();
      return parts[at++] === ')' ? inside : Number.NaN;
    }
    return part === undefined ? Number.NaN : Number(part);
  };
  const product = (): number => {
    let result = value();
    while (parts[at] === '*' || parts[at] === '/') result = parts[at++] === '*' ? result * value() : result / value();
    return result;
  };
  const sum = (): number => {
    let result = product();
    while (parts[at] === '+' || parts[at] === '-') result = parts[at++] === '+' ? result + product() : result - product();
    return result;
  };
  const result = sum();
  return at === parts.length && Number.isFinite(result) ? result : Number.NaN;
}
