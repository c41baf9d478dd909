/** The server's interface: typed by its own OpenAPI document. */
import { t } from '../kit/words'
import createClient from 'openapi-fetch'
import { takeEarly } from './early'
import type { components, paths } from './schema'

type Schemas = components['schemas']
export type HistoryEvent = Schemas['HappenedOut']
export type Note = Schemas['NoteOut']
export type Rocker = Schemas['RockerOut']
export type KeptRocker = Schemas['KeptRocker']
export type Correction = Schemas['CorrectionOut']
export type Mark = Schemas['MarkOut']
export type GeometryFigures = Schemas['GeometryFigures']
export type MarkIn = Schemas['MarkIn']
export type Motion = Schemas['MotionOut']
export type Overlay = Schemas['OverlayFigures']
export type Photo = Schemas['PhotoOut']
export type BoxRod = Schemas['BoxRodOut']
export type Decision = Schemas['DecisionOut']
export type InHand = Schemas['InHandOut']
export type Order = Schemas['OrderOut']
export type OrderLine = Schemas['OrderLineOut']
export type Orders = Schemas['OrdersOut']
export type Check = Schemas['CheckOut']
export type CheckPoint = Schemas['PointOut']
export type SignOff = Schemas['SignOffOut']
export type FindingIn = Schemas['FindingIn']
export type TorqueFigures = Schemas['TorqueFigures']
export type Pressed = Schemas['PressedOut']
export type RodPlanFigures = Schemas['RodPlanFigures']
export type RodFigures = Schemas['RodFigures']
export type RodPageData = Schemas['RodOut']
export type Exercise = Schemas['ExerciseOut']
export type DeedIn = Schemas['DeedIn']
export type Got = Schemas['GotOut']
export type Train = Schemas['TrainOut']
export type EndingValve = Schemas['ValveRunsOut']
export type Build = Schemas['BuildSummary']
export type BuildChange = Schemas['BuildChange']
export type BoardEntry = Schemas['BoardEntry']
export type BuildIn = Schemas['BuildIn']
export type Explanation = Schemas['ExplanationOut']
export type Group = Schemas['GroupOut']
export type Instrument = Schemas['InstrumentOut']
export type LogLine = Schemas['LogLine']
export type ParseField = Schemas['ParseIn']['field']
export type Candidate = Schemas['CandidateOut']
export type CamFigures = Schemas['CamFigures']
export type EngineFigures = Schemas['EngineFigures']
export type Heads = Schemas['HeadsOut']
export type HeadValve = Schemas['HeadValve']
export type MethodRule = Schemas['MethodRuleOut']
export type MeasureIn = Schemas['MeasureIn']
export type StopPlan = Schemas['StopPlanOut']
export type FinalFigures = Schemas['FinalFigures']
export type PriorFigures = Schemas['PriorFigures']
export type Suspicion = Schemas['SuspicionOut']
export type BaseCircle = Schemas['BaseCircleOut']
export type GaugeOwn = Schemas['OwnOut']
export type Problem = Schemas['Problem']
export type Rules = Schemas['RulesOut']
export type Station = Schemas['StationOut']
export type Ahead = Schemas['AheadOut']
export type KeptStation = Schemas['KeptStation']
export type TrialIn = Schemas['TrialIn']
export type ValveChange = Schemas['ValveChange']
export type Valve = Schemas['ValveSummary']
export type Verdict = Schemas['VerdictOut']
export type Convention = Schemas['BuildSummary']['order_convention']
export type Layout = BuildIn['layout']
export type Feel = TrialIn['feel']

export type Me = Schemas['MeOut']
export type Account = Schemas['AccountOut']
export type Role = Account['role']
export type Device = Schemas['DeviceOut']
export type Here = Schemas['HereOut']
export type Waiting = Schemas['WaitingOut']
export type Pairing = Schemas['PairingOut']

const ask = async (request: Request) => (await takeEarly(request)) ?? fetch(request)
export const api = createClient<paths>({ baseUrl: '/', fetch: ask })
let signedOut: () => void = () => undefined
/** What to do when an answer says that nobody is signed in here. */
export const whenSignedOut = (run: () => void) => (signedOut = run)
/** What this page is called where others are told of its writes. */
export const thisPage = crypto.randomUUID()
/** How far the database had written when this page last heard of it: no answer may be older. */
let seen = ''
export function hasSeen(position: string | null | undefined) {
  if (position && isLater(position, seen)) seen = position
}
/** Whether a position in the database's log, such as "0/3000148", lies behind another or none. */
export const isLater = (position: string, than: string) => place(position) > place(than || '0/0')
const place = (position: string) =>
  position.split('/').reduce((sum, part) => sum * 0x1_0000_0000 + parseInt(part, 16), 0)
// Who writes stands beside what was changed.
api.use({
  onResponse({ response }) {
    if (response.status === 401) signedOut()
    hasSeen(response.headers.get('X-Written'))
  },
  onRequest({ request }) {
    const by = localStorage.getItem('vivid-arm.by')
    if (request.method === 'GET') {
      if (seen) request.headers.set('X-Seen', seen)
      return request
    }
    if (by) request.headers.set('X-By', encodeURIComponent(by))
    request.headers.set('X-Page', thisPage)
    return request
  },
})

/** A refusal of the server, in its one problem shape. */
export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

const away: Problem = {
  type: 'about:blank',
  title: t('No answer'),
  status: 0,
  code: 'away',
  detail: t('Vivid Arm does not answer. What you entered is kept here; try again.'),
  context: {},
}

/** The data of an answer; throws Refused for a problem or no answer. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const result = await call.catch(() => {
    throw new Refused(away)
  })
  if (!result.response.ok) {
    const problem = result.error as Problem | undefined
    throw new Refused(problem?.detail ? problem : { ...away, status: result.response.status })
  }
  return result.data as T
}

/** Fields that ask for one of the ways to go on after a conflict. */
export type Change = Record<string, unknown>
export function choicesOf(problem: Problem | null): { words: string; change: Change }[] {
  return (problem?.context?.choices as { words: string; change: Change }[] | undefined) ?? []
}

export function problemOf(error: unknown): Problem {
  return error instanceof Refused ? error.problem : away
}
