/** The unit and the path of a given; a path may hold points in brackets, a tag anywhere. */
export function splitKey(text: string): [string, string] {
  const [, unit, field] = /^(.*?)\.(\w+(?:\[.*\](?:\.\w+)?)?)$/.exec(text) ?? []
  return [unit ?? '', field ?? text]
}
