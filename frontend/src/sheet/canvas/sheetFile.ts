import type { Plant, Result } from '../../api/client'
import type { Texts } from './beside'
import {
  arrowOf,
  boxOf,
  dashOf,
  lettered,
  pathOf,
  platePlace,
  poseTransform,
  ROW,
  routesOf,
  WIDE,
  type Drawn,
  type Placed,
} from './drawing'
import { letteringOf, VALUE_ROW } from './labels'
import { symbolOf } from './symbols'

const INK = '#1d1c1a'
const PAPER = '#fbfaf6'
const FONT = 'font-family="IBM Plex Sans Condensed, Arial Narrow, sans-serif"'

/** The drawing as an SVG file of its own, with a title block; lines as on the sheet. */
export function sheetSvg(
  document: Plant,
  placed: Placed[],
  result: Result | null,
  beside: Texts,
  tables: Map<string, Drawn>,
): string {
  const lines = lettered(routesOf(placed, document.streams ?? []), placed, (tag) => ({
    values: beside[tag]?.length ?? 0,
    clear: 0,
  }))
  const xs = placed
    .flatMap((p) => [p.x, p.x + boxOf(p.type, p.unit).width])
    .concat(lines.flatMap((l) => l.points.map((q) => q.x)))
  const ys = placed
    .flatMap((p) => [p.y, p.y + boxOf(p.type, p.unit).height + 40])
    .concat(lines.flatMap((l) => l.points.map((q) => q.y)))
  const areas = document.areas ?? []
  for (const a of areas) {
    xs.push(a.x, a.x + a.width)
    ys.push(a.y, a.y + a.height)
  }
  for (const n of document.notes ?? []) {
    xs.push(n.x ?? 0, (n.x ?? 0) + 6 * Math.max(...n.text.split('\n').map((t) => t.length)))
    ys.push(n.y ?? 0, (n.y ?? 0) + 14 * (n.text.split('\n').length + 1))
  }
  for (const t of document.tables ?? []) {
    const drawn = tables.get(t.name)
    xs.push(t.x ?? 0, (t.x ?? 0) + widthOf(drawn))
    ys.push(t.y ?? 0, (t.y ?? 0) + ROW * ((drawn?.rows.length ?? 0) + 2))
  }
  const [left, top] = [Math.min(...xs, 0) - 40, Math.min(...ys, 0) - 40]
  const [width, height] = [Math.max(...xs, 400) + 60 - left, Math.max(...ys, 200) + 90 - top]
  const parts: string[] = []
  for (const a of areas)
    parts.push(
      `<rect x="${a.x}" y="${a.y}" width="${a.width}" height="${a.height}" fill="none" stroke="${INK}" stroke-dasharray="3 4" stroke-width="0.8"/>`,
      text(a.x + a.width - 6, a.y - 5, a.name, 12, 'end'),
    )
  for (const { stream, kind, points, label } of lines) {
    const dash = dashOf(kind, result?.streams[stream.tag]?.vapour_fraction, result?.streams[stream.tag]?.mole_flow)
    parts.push(
      `<path d="${pathOf(points)}" fill="none" stroke="${INK}" stroke-width="${kind === 'shaft' ? 4 : 1.4}"${dash ? ` stroke-dasharray="${dash}"` : ''}/>`,
    )
    if (kind === 'shaft') parts.push(`<path d="${pathOf(points)}" fill="none" stroke="${PAPER}" stroke-width="1.6"/>`)
    parts.push(`<path d="${arrowOf(points)}" fill="${INK}"/>`)
    const at = letteringOf(label)
    parts.push(text(at.x, at.tag, stream.tag, 11, at.anchor))
    ;(beside[stream.tag] ?? []).forEach((t, k) => parts.push(text(at.x, at.values + VALUE_ROW * k, t, 9.5, at.anchor)))
  }
  for (const { unit, type, x, y } of placed) {
    const turn = ` transform="${poseTransform(type, unit)}"`
    const paths = symbolOf(type?.symbol).paths.map(
      (d, k) =>
        `<path d="${d}" fill="${k ? 'none' : PAPER}" stroke="${INK}" stroke-width="1.5" stroke-linejoin="round"/>`,
    )
    parts.push(`<g transform="translate(${x} ${y})"><g${turn}>${paths.join('')}</g></g>`)
    const plate = platePlace(type, unit)
    parts.push(text(x + plate.x, y + plate.y + 12, unit.tag, 12, plate.middle ? 'middle' : 'start'))
    ;(beside[unit.tag] ?? []).forEach((t, k) =>
      parts.push(text(x + plate.x, y + plate.y + 25 + 12 * k, t, 9.5, plate.middle ? 'middle' : 'start')),
    )
  }
  for (const n of document.notes ?? [])
    n.text.split('\n').forEach((t, k) => parts.push(text(n.x ?? 0, (n.y ?? 0) + 14 + 14 * k, t, 11)))
  for (const t of document.tables ?? []) parts.push(...tableParts(t.name, t.x ?? 0, t.y ?? 0, tables.get(t.name)))
  const [bx, by] = [left + width - 300, top + height - 54]
  parts.push(`<rect x="${bx}" y="${by}" width="280" height="36" fill="${PAPER}" stroke="${INK}" stroke-width="0.8"/>`)
  parts.push(text(bx + 8, by + 15, document.title, 12), text(bx + 8, by + 29, 'Process flow diagram, Wattaxis', 10))
  const frame = `<rect x="${left}" y="${top}" width="${width}" height="${height}" fill="${PAPER}"/>`
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${left} ${top} ${width} ${height}" width="${width}" height="${height}" ${FONT}>${frame}${parts.join('')}</svg>`
}

function widthOf(drawn: Drawn | undefined): number {
  return WIDE[0] + WIDE[1] + WIDE[2] * (drawn?.head.length ?? 0)
}

/** A table of results: ruled like on the sheet. */
function tableParts(name: string, x: number, y: number, drawn: Drawn | undefined): string[] {
  if (!drawn) return []
  const [width, height] = [widthOf(drawn), ROW * (drawn.rows.length + 1) + 4]
  const end = (k: number) => x + WIDE[0] + WIDE[1] + WIDE[2] * (k + 1) - 4
  const parts = [
    `<rect x="${x}" y="${y}" width="${width}" height="${height}" fill="${PAPER}" stroke="${INK}" stroke-width="0.8"/>`,
    `<path d="M${x} ${y + ROW + 2}h${width}" stroke="${INK}" stroke-width="0.8"/>`,
    text(x + 4, y + 12, name, 10.5),
    ...drawn.head.map((tag, k) => text(end(k), y + 12, tag, 10.5, 'end')),
  ]
  drawn.rows.forEach((row, n) => {
    const at = y + ROW * (n + 2)
    parts.push(text(x + 4, at, row.title, 10), text(x + WIDE[0], at, row.unit, 10))
    parts.push(...row.cells.map((cell, k) => text(end(k), at, cell, 10, 'end')))
  })
  return parts
}

function text(x: number, y: number, content: string, size: number, anchor = 'start'): string {
  const plain = content.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;')
  const halo = `stroke="${PAPER}" stroke-width="3" paint-order="stroke"`
  return `<text x="${x}" y="${y}" font-size="${size}" text-anchor="${anchor}" fill="${INK}" ${halo}>${plain}</text>`
}

export function save(name: string, content: Blob) {
  const link = window.document.createElement('a')
  link.href = URL.createObjectURL(content)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}

/** The drawing as a page of PDF, its lines and letters as such; an A3 page in its own direction, or larger where it does not fit. */
export async function svgToPdf(svg: string): Promise<Blob> {
  const [{ jsPDF }] = await Promise.all([import('jspdf'), import('svg2pdf.js')])
  const drawing = new DOMParser().parseFromString(svg, 'image/svg+xml').documentElement
  // Letters come without their halo: it would be drawn over them.
  for (const text of drawing.querySelectorAll('text')) text.removeAttribute('stroke')
  const [width, height] = [Number(drawing.getAttribute('width')), Number(drawing.getAttribute('height'))]
  // Points of a page: A3 is 1191 by 842.
  const scale = Math.min(1, Math.max(1191 / width, 842 / height))
  const [wide, high] = [width * scale, height * scale]
  const pdf = new jsPDF({ unit: 'pt', format: [wide, high], orientation: wide > high ? 'landscape' : 'portrait' })
  await pdf.svg(drawing, { x: 0, y: 0, width: wide, height: high })
  return pdf.output('blob')
}

/** The same as a picture of twice the size. */
export async function svgToPng(svg: string): Promise<Blob | null> {
  const image = new Image()
  image.src = 'data:image/svg+xml;charset=utf-8,' + encodeURIComponent(svg)
  await image.decode()
  const canvas = window.document.createElement('canvas')
  canvas.width = 2 * image.width
  canvas.height = 2 * image.height
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height)
  return new Promise((done) => canvas.toBlob(done, 'image/png'))
}
