import createClient from 'openapi-fetch'
import type { components, paths } from './generated/schema'

export type Schemas = components['schemas']
export type Variant = Schemas['VariantOut']
export type Changed = Schemas['ChangedOut']
export type Quarrel = Schemas['QuarrelOut']
export type Plant = Schemas['DocumentOut']
export type Unit = Schemas['UnitOut']
export type Stream = Schemas['StreamOut']
export type Result = Schemas['ResultOut']
export type ResultValue = Schemas['ResultValue']
export type StreamResult = Schemas['StreamResult']
export type Answer = Schemas['AnswerOut']
export type Finding = Schemas['Finding']
export type Ask = Schemas['Ask']
export type Invited = Schemas['InvitedOut']
export type Project = Schemas['ProjectOut']
export type Quantity = Schemas['QuantityOut']
export type Catalogue = Schemas['CatalogueOut']
export type UnitType = Schemas['UnitTypeOut']
export type FieldInfo = Schemas['FieldOut']
export type Choice = Schemas['ChoiceOut']
export type EstimatedComponent = Schemas['EstimatedComponent']
export type PlantComponent = Schemas['DocumentComponentOut']
export type BankComponent = Schemas['ComponentOut']
export type Guide = Schemas['GuideOut']
export type PairRow = Schemas['PairRow']
export type Measured = Schemas['Measured']
export type KeptFit = Schemas['KeptFit']
export type FitAnswer = Schemas['FitOut']
export type DataKind = Schemas['DataKindOut']
export type ReactionSet = Schemas['TypedReactionSet']
export type Reaction = Schemas['TypedReaction']
export type RateLaw = Schemas['TypedRate']
export type WrittenLaw = Schemas['TypedExpression']
export type AdsorptionTerm = Schemas['TypedTerm']
export type ConstantTable = Schemas['ConstantTable']
export type Law = RateLaw | WrittenLaw
export type ReactionLook = Schemas['ReactionLookOut']
export type LawLook = Schemas['LawLookOut']
export type Influence = Schemas['InfluenceOut']
export type AssumptionInfluence = Schemas['AssumptionInfluenceOut']
export type Aim = Schemas['AimOut']
export type AimProposals = Schemas['AimProposalsOut']
export type Comparison = Schemas['ComparisonOut']
export type Scaling = Schemas['ScalingOut']
export type Envelope = Schemas['EnvelopeOut']
/** A piece of plant, as the core keeps it; opaque here but for what is shown. */
export interface Piece {
  name: string
  text: string
  units: Unit[]
  streams: Stream[]
  connections: { title: string; unit: string; port: string }[]
  free: { unit: string; field: string; title: string }[]
}
export type Kit = Schemas['KitOut']
export type Compression = Schemas['CompressionOut']
export type Note = Schemas['Note']
export type Area = Schemas['Area']
export type SheetTable = Schemas['SheetTable']
export type Diagram = Schemas['DiagramOut']
export type Profile = Schemas['Profile']
export type ProfileColumn = Schemas['ProfileColumn']
/** Units and streams of a calculation under way; `same`: units that are as in the results of the revision `since`. */
export interface Partial {
  revision: number
  units: Result['units']
  streams: Result['streams']
  same?: string[]
  since?: number
}
/** One kind of edit. */
export type EditOf<K extends string> = Extract<Edit, { kind: K }>
/** An edit of the plant: the union of all kinds, as the core describes it. */
export type Edit = Schemas['EditIn']['edit']

export const api = createClient<paths>({ baseUrl: window.location.origin })

function cookie(name: string): string {
  return (
    document.cookie
      .split('; ')
      .find((c) => c.startsWith(name + '='))
      ?.slice(name.length + 1) ?? ''
  )
}

/** Asks somebody to sign in again; tells whether they did. */
let signedInAgain: () => Promise<boolean> = () => Promise.resolve(false)
export function whenSignedOut(ask: () => Promise<boolean>) {
  signedInAgain = ask
}
/** Requests under way whose body could be sent once more. */
const copies = new Map<string, Request>()

api.use({
  onRequest({ request, id }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', cookie('csrftoken'))
    copies.set(id, request.clone())
    return request
  },
  /** A request that came after the sign-in had ended waits for the next one and is sent again. */
  async onResponse({ response, schemaPath, id }) {
    const again = copies.get(id)
    copies.delete(id)
    if (response.status !== 401 || schemaPath === '/api/session' || !again || !(await signedInAgain())) return response
    if (again.method !== 'GET') again.headers.set('X-CSRFToken', cookie('csrftoken'))
    return fetch(again)
  },
  onError({ id }) {
    copies.delete(id)
  },
})

/** The sentence that the server sent with a refusal, or one of ours when it could not be reached. */
export function sentence(error: unknown): string {
  if (error && typeof error === 'object' && 'message' in error && typeof error.message === 'string') {
    return error instanceof TypeError
      ? 'The server cannot be reached. What you typed is still here; try again.'
      : error.message
  }
  return 'The server did not understand that.'
}
