/**
 * The words that names of elements are made of. Renderers and artists write them apart, together, shortened and in
 * other languages; here all of them become one vocabulary. Common practice, no published source.
 */

/** Word of the vocabulary → how it is written. */
const SPELLINGS: Readonly<Record<string, readonly string[]>> = {
  beauty: ['beauty', 'rgba', 'rgb', 'combined', 'composite', 'final', 'render', 'main', 'noisy', 'image', 'rendu', 'rendering'],
  denoised: ['denoised', 'denoise', 'dn', 'clean', 'noiseless', 'entrauscht'],
  diffuse: ['diffuse', 'diff', 'dif', 'diffus', 'diffuso', 'difuso', 'diffusa', 'difusa'],
  filter: ['filter', 'filt', 'color', 'colour', 'col', 'clr', 'texture', 'tex', 'farbe', 'couleur', 'filtro', 'filtre', 'colore'],
  albedo: ['albedo', 'basecolor', 'basecolour'],
  raw: ['raw', 'roh', 'brut', 'unfiltered', 'grezzo', 'bruto', 'crudo'],
  total: ['total', 'full'],
  direct: ['direct', 'dir', 'direkt', 'directe', 'diretta', 'diretto', 'directa', 'directo', 'direkte'],
  gi: ['gi', 'indirect', 'ind', 'bounce', 'bounced', 'globalillumination', 'indirekt', 'indirecte', 'indiretta', 'indiretto', 'indirecta', 'indirecto', 'indirektes'],
  global: ['global', 'globale', 'globales'],
  lighting: ['lighting', 'illumination', 'illum', 'illu', 'beleuchtung', 'eclairage', 'illuminazione', 'iluminacion', 'eclairement'],
  light: ['light', 'lights', 'lgt', 'licht', 'lumiere', 'lichter', 'lumieres', 'luce', 'luci', 'luz', 'luces'],
  lamp: ['lamp', 'lamps', 'lampe', 'lampen', 'lampada', 'lampara', 'luminaire', 'luminaires', 'leuchte', 'leuchten'],
  sunlight: ['sunlight', 'moonlight', 'daylight', 'sonnenlicht', 'keylight', 'filllight', 'rimlight'],
  lightgroup: ['lg', 'lightgroup', 'lightgroups', 'lightselect', 'lightmix', 'lichtgruppe'],
  group: ['group', 'groups', 'grp', 'select', 'mix', 'gruppe', 'groupe', 'gruppo', 'grupo'],
  reflection: ['reflection', 'reflections', 'reflect', 'refl', 'rfl', 'reflexion', 'spiegelung', 'mirror', 'mirrors', 'spiegelungen', 'reflet', 'reflets', 'riflesso', 'riflessi', 'riflessione', 'riflessioni', 'reflejo', 'reflejos', 'reflexiones'],
  refraction: ['refraction', 'refractions', 'refract', 'refr', 'rfr', 'transmission', 'brechung', 'refraktion', 'rifrazione', 'refraccion'],
  specular: ['specular', 'spec', 'highlight', 'highlights', 'gloss', 'glossy', 'speculaire', 'glanz', 'speculare', 'especular', 'glanzlicht', 'glanzlichter', 'speculaires'],
  self: ['self'],
  emission: ['emission', 'emissive', 'emit', 'selfillumination', 'selfillum', 'selfilum', 'incandescence', 'luminance', 'glow', 'selbstleuchten', 'emissione', 'emision', 'autoillumination'],
  subsurface: ['subsurface', 'sss', 'sub', 'scatter', 'scattering', 'translucency', 'translucent'],
  caustics: ['caustics', 'caustic', 'kaustik', 'kaustiken', 'caustique', 'caustiques', 'caustica', 'caustiche'],
  shadow: ['shadow', 'shadows', 'shad', 'shdw', 'schatten', 'ombre', 'ombres', 'ombra', 'sombra', 'sombras'],
  standin: ['standin', 'caught', 'catcher', 'shadowcatcher', 'proxy'],
  occlusion: ['occlusion', 'occ', 'ao', 'ambientocclusion', 'extratex', 'extratexture', 'cavity', 'dirt', 'umgebungsverdeckung', 'verdeckung', 'occlusione', 'oclusion'],
  ambient: ['ambient', 'amb'],
  atmosphere: ['atmosphere', 'atmospherics', 'atmos', 'volumetrics', 'volumetric', 'volume', 'vol', 'fog', 'haze', 'mist', 'nebel', 'dunst', 'brouillard', 'brume', 'nebbia', 'niebla', 'atmosphaere', 'atmosfera', 'aerial', 'aerialperspective'],
  glare: ['glare', 'bloom', 'blooming', 'glares', 'blendung', 'eblouissement', 'bagliore', 'deslumbramiento'],
  background: ['background', 'bg', 'bkg', 'hintergrund', 'backplate', 'arriereplan', 'fond', 'sfondo', 'fondo'],
  environment: ['environment', 'env', 'sky', 'dome', 'hdri', 'umgebung', 'environnement', 'himmel', 'ciel', 'cielo'],
  depth: ['depth', 'zdepth', 'z', 'zbuffer', 'tiefe', 'profondeur', 'dof', 'zbuf', 'depthz', 'profondita', 'profundidad'],
  distance: ['distance', 'dist', 'raylength', 'camdist', 'entfernung', 'abstand', 'distanz', 'distanza', 'distancia'],
  normals: ['normal', 'normals', 'norm', 'nrm', 'n', 'bump', 'bumpnormals', 'normale', 'normalen', 'normali', 'normales'],
  position: ['position', 'positions', 'pos', 'p', 'world', 'worldpos', 'worldposition', 'points', 'pworld', 'posizione', 'posicion'],
  material: ['material', 'materials', 'mat', 'mtl', 'shader', 'matl', 'materiau', 'materiale', 'materialien', 'materiales', 'ma'],
  object: ['object', 'objects', 'obj', 'node', 'instance', 'mesh', 'objekt', 'objet', 'renderid', 'objekte', 'objets', 'oggetto', 'oggetti', 'objeto', 'objetos', 'ob'],
  id: ['id', 'ids', 'idmask', 'index', 'idx', 'clown', 'clownpass', 'cid'],
  mask: ['mask', 'maske', 'masque', 'masks', 'masken', 'maschera', 'mascara', 'masques'],
  matte: ['matte', 'mattes', 'multimatte', 'mmatte', 'puzzle', 'puzzlematte'],
  crypto: ['cryptomatte', 'crypto', 'cryptomaterial', 'cryptoobject', 'cryptoasset'],
  alpha: ['alpha', 'a', 'opacity', 'coverage', 'deckung'],
  coat: ['coat', 'clearcoat', 'coating'],
  sheen: ['sheen', 'fuzz'],
  measure: ['glossiness', 'roughness', 'rough', 'ior', 'metalness', 'metallic', 'anisotropy', 'motion', 'motionvector', 'motionvectors', 'velocity', 'mv', 'uv', 'uvs', 'st', 'texcoord', 'texcoords', 'samplecount', 'samplerate'],
  wireframe: ['wireframe', 'wire', 'wires', 'edges', 'lines', 'drahtgitter'],
};

const words = new Map<string, string>(Object.entries(SPELLINGS).flatMap(([word, spellings]) => spellings.map((spelling) => [spelling, word] as const)));
/** Single letters and syllables of other words only count when they stand alone. */
const SHORTEST_INSIDE = 3;
const shortInside = new Set(['id', 'gi', 'ao', 'z']);
const LONGEST_SPELLING = Math.max(...[...words.keys()].map((spelling) => spelling.length));
/** Nobody writes more than this in one name, or more words together; what does is not looked through. */
const LONGEST_NAME = 1000;
const LONGEST_TOGETHER = 60;

/** Splits a name at separators, at case changes and before digits: `kiln_DiffuseFilter.0001` → kiln, diffuse, filter, 0001. */
export function wordsOf(name: string): string[] {
  return name
    .slice(0, LONGEST_NAME)
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([A-Z])(?=[A-Z][a-z])/g, '$1 ')
    .replace(/([A-Za-z])(\d)/g, '$1 $2')
    .replace(/(\d)([A-Za-z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((word) => word !== '');
}

/** Letters that stand for a direction of numbers behind another word, as in `volume_Z`. */
const LAYER_LETTERS = new Set(['z']);

/** A token that is written together, taken apart into known words without a rest; null if that is not possible. */
function takenApart(token: string): string[] | null {
  if (token.length > LONGEST_TOGETHER) return null;
  const ways: (string[] | null)[] = [[]];
  for (let end = 1; end <= token.length; end++) {
    ways[end] = null;
    for (let start = Math.max(0, end - LONGEST_SPELLING); start < end; start++) {
      const before = ways[start];
      const piece = token.slice(start, end);
      const word = piece.length >= SHORTEST_INSIDE || shortInside.has(piece) ? words.get(piece) : undefined;
      // Fewer and longer words are the better reading.
      if (before && word && (ways[end] === null || before.length + 1 < (ways[end]?.length ?? 0))) ways[end] = [...before, word];
    }
  }
  return ways[token.length];
}

/**
 * The known words of a name, in its order, behind the first `title` ones, which say nothing here. `unknown` counts the letters' words that mean nothing.
 * A single letter says something only where it is all there is: perspectives and floors are numbered with letters everywhere.
 */
export function vocabularyOf(name: string, title = 0): { known: string[]; unknown: number } {
  const known: string[] = [];
  let unknown = 0;
  const all = wordsOf(name).slice(title);
  // “Z.0007” is depth with the number of a frame, “P3” a perspective.
  const isNumbered = /(^|[^a-z])[a-z]\d/i.test(name);
  const isAlone = !isNumbered && all.filter((token) => !/^\d+$/.test(token)).length === 1;
  const tokens = isAlone ? all : all.filter((token) => token.length > 1 || /\d/.test(token) || LAYER_LETTERS.has(token));
  for (let i = 0; i < tokens.length; i++) {
    // `z depth`, `self illumination`: two tokens that form one spelling.
    const pair = i + 1 < tokens.length ? words.get(tokens[i] + tokens[i + 1]) : undefined;
    if (pair && !words.has(tokens[i])) {
      known.push(pair);
      i++;
      continue;
    }
    const word = words.get(tokens[i]);
    const found = word ? [word] : takenApart(tokens[i]);
    if (found && found.length > 0) known.push(...found);
    else if (!/^\d+$/.test(tokens[i])) unknown++;
  }
  return { known, unknown };
}
