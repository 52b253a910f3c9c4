// Draws the pictures of the demo world, all invented here, and writes them to demo/pictures.
// Usage: node tools/draw-pictures.mjs
import { mkdir, writeFile } from 'node:fs/promises'
import { fileURLToPath } from 'node:url'
import sharp from 'sharp'

const folder = fileURLToPath(new URL('../demo/pictures/', import.meta.url))
const [width, height] = [1200, 750]

/** Numbers that look like chance and are the same at every run. */
const chance = (seed) => () => (seed = (seed * 16807) % 2147483647) / 2147483647

const sky = (top, bottom) =>
  `<defs><linearGradient id="sky" x2="0" y2="1"><stop stop-color="${top}"/><stop offset="1" stop-color="${bottom}"/></linearGradient></defs><rect width="${width}" height="${height}" fill="url(#sky)"/>`

/** Rows of waves from a height down to the lower edge. */
const sea = (from, colours, seed = 7) => {
  const random = chance(seed)
  return colours
    .map((colour, row) => {
      const y = from + (row * (height - from)) / colours.length
      let path = `M0 ${y}`
      for (let x = 0; x <= width; x += 60) path += ` q15 ${-6 - 8 * random()} 30 0 t30 0`
      return `<path d="${path} V${height} H0 Z" fill="${colour}"/>`
    })
    .join('')
}

const birds = (count, seed, colour, [x0, y0, w, h]) => {
  const random = chance(seed)
  return Array.from({ length: count }, () => {
    const [x, y, s] = [x0 + w * random(), y0 + h * random(), 8 + 14 * random()]
    return `<path d="M${x - s} ${y - s / 2} q${s / 2} ${-s / 3} ${s} ${s / 2} q${s / 2} ${-s * 0.8} ${s} ${-s / 2}" fill="none" stroke="${colour}" stroke-width="3" stroke-linecap="round"/>`
  }).join('')
}

const tower = (x, foot, scale, lit) => `<g transform="translate(${x} ${foot}) scale(${scale})">
  <path d="M-52 0 L-34 -330 H34 L52 0 Z" fill="#f4ecdc"/><path d="M-46 -105 L-40 -215 H40 L46 -105 Z" fill="#a9512b"/>
  <rect x="-48" y="-344" width="96" height="14" fill="#22303a"/><rect x="-26" y="-394" width="52" height="50" fill="${lit ? '#ffe9a8' : '#9fb7bf'}"/>
  <path d="M-34 -394 Q0 -440 34 -394 Z" fill="#22303a"/><rect x="-9" y="-40" width="18" height="40" fill="#22303a"/>
  <rect x="-6" y="-170" width="12" height="20" fill="#22303a"/><rect x="-6" y="-270" width="12" height="20" fill="#22303a"/></g>`

const pictures = {
  lighthouse: `${sky('#bcd6dc', '#f4e4c8')}${birds(7, 11, '#22303a', [120, 110, 500, 160])}
    <path d="M560 750 Q600 470 820 452 Q1010 440 1200 520 V750 Z" fill="#7d8a5c"/><path d="M560 750 Q600 500 700 468 L690 750 Z" fill="#5f6b49"/>${tower(880, 470, 0.95, true)}${sea(600, ['#4d8193', '#3b6d80', '#2a596c', '#1f4e5f'])}`,
  boatyard: `${sky('#d9dfd6', '#f4ecdc')}<path d="M0 520 H1200 V750 H0 Z" fill="#b39a72"/><path d="M0 520 H1200 V548 H0 Z" fill="#9a825e"/>
    <path d="M760 300 L1000 190 L1200 280 V520 H760 Z" fill="#6b4a35"/><path d="M740 306 L1000 176 L1200 268 V296 L1000 208 L752 326 Z" fill="#3f2f26"/><rect x="860" y="380" width="120" height="140" fill="#2b211b"/>
    <path d="M150 420 Q420 520 720 400 Q690 560 560 590 H300 Q190 560 150 420 Z" fill="#1f4e5f"/><path d="M150 420 Q420 520 720 400 L716 424 Q420 546 158 444 Z" fill="#f4ecdc"/>
    <path d="M430 474 V120" stroke="#3f2f26" stroke-width="14"/><path d="M442 140 Q620 300 610 400 L442 430 Z" fill="#a9512b"/><path d="M418 170 Q300 300 262 420 L418 446 Z" fill="#c98258"/>
    <g stroke="#3f2f26" stroke-width="12"><path d="M300 590 L270 660 M560 590 L590 660 M430 600 V664"/></g>${birds(4, 3, '#3f2f26', [120, 80, 260, 120])}`,
  saltworks: `${sky('#f0d9b8', '#faf1df')}<circle cx="930" cy="190" r="76" fill="#e8a65c"/>
    ${Array.from({ length: 5 }, (_, row) =>
      Array.from({ length: 6 }, (_, column) => {
        const [y0, y1] = [380 + row * 74, 380 + (row + 1) * 74]
        const at = (c, y) => 600 + (c - 3) * (90 + (y - 380) * 0.72)
        return `<path d="M${at(column, y0)} ${y0} H${at(column + 1, y0)} L${at(column + 1, y1)} ${y1} H${at(column, y1)} Z" fill="${['#a9c3c4', '#c9d8d2', '#e6e6da', '#b7cfcf'][(row * 5 + column * 3) % 4]}" stroke="#8a7a5f" stroke-width="6"/>`
      }).join(''),
    ).join('')}
    <path d="M120 380 L200 270 L330 270 L400 380 Z" fill="#6b4a35"/><rect x="150" y="380" width="220" height="70" fill="#8d6a4d"/><path d="M250 270 q-20 -60 10 -90 q-30 -40 20 -80" fill="none" stroke="#fff" stroke-width="16" stroke-linecap="round" opacity=".7"/>
    ${[
      [700, 520],
      [520, 640],
      [880, 610],
    ]
      .map(([x, y]) => `<path d="M${x - 60} ${y} Q${x} ${y - 90} ${x + 60} ${y} Z" fill="#fff"/>`)
      .join('')}`,
  rope: `<rect width="1200" height="750" fill="#d9c9a8"/>${[
    [330, 400, 190],
    [640, 350, 230],
    [930, 430, 170],
  ]
    .map(([x, y, r]) =>
      Array.from(
        { length: 6 },
        (_, ring) =>
          `<ellipse cx="${x}" cy="${y}" rx="${r - ring * r * 0.14}" ry="${(r - ring * r * 0.14) * 0.62}" fill="none" stroke="${ring % 2 ? '#8d6a4d' : '#a9835c'}" stroke-width="${r * 0.13}" /><ellipse cx="${x}" cy="${y}" rx="${r - ring * r * 0.14}" ry="${(r - ring * r * 0.14) * 0.62}" fill="none" stroke="#6b4a35" stroke-width="${r * 0.1}" stroke-dasharray="5 18" opacity=".6"/>`,
      ).join(''),
    )
    .join('')}`,
  lens: `<rect width="1200" height="750" fill="#22303a"/><g fill="none" stroke="#9fd0d6">${Array.from({ length: 11 }, (_, ring) => `<circle cx="600" cy="375" r="${60 + ring * 29}" stroke-width="${15 - ring * 0.7}" opacity="${0.95 - ring * 0.065}"/>`).join('')}</g>
    ${Array.from({ length: 24 }, (_, ray) => `<path d="M600 375 L${600 + 900 * Math.cos((ray * Math.PI) / 12)} ${375 + 900 * Math.sin((ray * Math.PI) / 12)}" stroke="#ffe9a8" stroke-width="2" opacity=".35"/>`).join('')}
    <path d="M600 320 Q640 380 600 420 Q560 380 600 320 Z" fill="#ffd36b"/>`,
  waders: `${sky('#dfe6e2', '#f6eedd')}<rect y="470" width="1200" height="280" fill="#b9a887"/><path d="M0 500 Q300 470 600 510 T1200 500 V560 Q900 530 600 570 T0 560 Z" fill="#9fb7bf"/>
    ${[
      [230, 540, 1.3],
      [420, 600, 1],
      [590, 560, 1.5],
      [800, 620, 1.1],
      [960, 560, 1.3],
      [700, 690, 1.6],
      [330, 690, 1.2],
    ]
      .map(
        ([x, y, s]) =>
          `<g transform="translate(${x} ${y}) scale(${s})"><path d="M-8 0 L-12 44 M8 0 L12 44" stroke="#3f2f26" stroke-width="4"/><ellipse rx="40" ry="24" fill="#8a6f55"/><ellipse cy="8" rx="32" ry="16" fill="#f4ecdc"/><circle cx="36" cy="-24" r="15" fill="#8a6f55"/><path d="M48 -24 L92 -14 L48 -18 Z" fill="#22303a"/><circle cx="40" cy="-28" r="3" fill="#fff"/></g>`,
      )
      .join('')}${birds(18, 29, '#5c5449', [80, 70, 1040, 240])}`,
  storm: `${sky('#171d2b', '#3a4a5c')}<path d="M420 205 L0 60 V330 Z" fill="#ffe9a8" opacity=".25"/><path d="M420 205 L1200 40 V330 Z" fill="#ffe9a8" opacity=".3"/>
    ${tower(420, 620, 1.1, true)}<path d="M250 750 Q300 600 420 596 Q560 600 620 750 Z" fill="#2b2b2b"/>${sea(590, ['#33566a', '#294a5d', '#1f3d4f', '#152f40'], 91)}
    ${(() => {
      const random = chance(5)
      return Array.from({ length: 120 }, () => {
        const [x, y] = [width * random(), height * random()]
        return `<path d="M${x} ${y} l-22 46" stroke="#c9d8e0" stroke-width="2" opacity=".45"/>`
      }).join('')
    })()}`,
  chart: `<rect width="1200" height="750" fill="#f4ecdc"/><rect x="40" y="40" width="1120" height="670" fill="#e3ecea" stroke="#5c5449" stroke-width="4"/>
    ${Array.from(
      { length: 5 },
      (_, ring) =>
        `<path d="M${300 - ring * 30} 380 Q${420 - ring * 10} ${220 - ring * 34} ${640} ${270 - ring * 30} T${930 + ring * 36} 400 Q${840 + ring * 20} ${560 + ring * 26} ${560} ${520 + ring * 28} T${300 - ring * 30} 380 Z" fill="${ring === 0 ? '#e8cf9a' : 'none'}" stroke="#8a7a5f" stroke-width="3" stroke-dasharray="${ring ? '10 8' : ''}"/>`,
    )
      .reverse()
      .join('')}
    ${(() => {
      const random = chance(77)
      return Array.from(
        { length: 46 },
        () =>
          `<text x="${80 + 1040 * random()}" y="${90 + 590 * random()}" font-family="serif" font-size="24" fill="#5c5449">${1 + Math.floor(9 * random())}</text>`,
      ).join('')
    })()}
    <g transform="translate(1030 170)" stroke="#22303a" stroke-width="3"><circle r="62" fill="none"/><path d="M0 -92 L14 0 L0 92 L-14 0 Z" fill="#a9512b"/><path d="M-92 0 L0 12 L92 0 L0 -12 Z" fill="#22303a"/></g>`,
}

await mkdir(folder, { recursive: true })
for (const [name, drawing] of Object.entries(pictures)) {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}">${drawing}</svg>`
  await sharp(Buffer.from(svg)).webp({ quality: 82 }).toFile(`${folder}${name}.webp`)
}
await writeFile(
  `${folder}icon.svg`,
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 64"><rect width="64" height="64" rx="8" fill="#1f4e5f"/>${tower(32, 58, 0.118, true)}</svg>\n`,
)
console.log(`${Object.keys(pictures).length} pictures in demo/pictures`)
