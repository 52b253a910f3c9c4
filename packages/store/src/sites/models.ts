import type { Consequence, Model, ModelFile } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { ModelRow, ProposalRow } from '../tables/tables.js'

/** A model that has been in force, as it was adopted. */
export interface AdoptedModel {
  readonly version: number
  readonly files: readonly ModelFile[]
  readonly consequences: readonly Consequence[]
  readonly at: string
  readonly actor: string
}

/** Model files that were compared with the model in force. */
export interface Proposal {
  readonly id: string
  readonly site: string
  /** The version of the model that they were compared with. */
  readonly baseVersion: number
  readonly model: Model
  readonly files: readonly ModelFile[]
  readonly consequences: readonly Consequence[]
  readonly at: string
  readonly actor: string
}

/** Every model that has been in force, oldest first. */
export async function pastModels(reader: Reader, site: string): Promise<Model[]> {
  const rows = await reader.all<{ model: string }>('select model from models where site = ? order by version', [site])
  return rows.map(({ model }) => JSON.parse(model) as Model)
}

/** The model of a version that has been in force; undefined where there was none. */
export async function pastModelAt(reader: Reader, site: string, version: number): Promise<Model | undefined> {
  const [row] = await reader.all<{ model: string }>('select model from models where site = ? and version = ?', [
    site,
    version,
  ])
  return row && (JSON.parse(row.model) as Model)
}

export async function adoptedModel(reader: Reader, site: string, version: number): Promise<AdoptedModel | undefined> {
  const [row] = await reader.all<Omit<ModelRow, 'model'>>(
    'select version, files, consequences, at, actor from models where site = ? and version = ?',
    [site, version],
  )
  return (
    row && {
      version: row.version,
      files: JSON.parse(row.files) as ModelFile[],
      consequences: JSON.parse(row.consequences) as Consequence[],
      at: row.at,
      actor: row.actor,
    }
  )
}

/** The models that have been in force without their files, newest first. */
export async function modelHistory(reader: Reader, site: string, most: number): Promise<Omit<AdoptedModel, 'files'>[]> {
  const rows = await reader.all<Pick<ModelRow, 'version' | 'consequences' | 'at' | 'actor'>>(
    'select version, consequences, at, actor from models where site = ? order by version desc limit ?',
    [site, most],
  )
  return rows.map(({ consequences, ...row }) => ({ ...row, consequences: JSON.parse(consequences) as Consequence[] }))
}

export async function insertProposal(transaction: Transaction, proposal: Proposal): Promise<void> {
  await transaction.tables.proposals.create({
    id: proposal.id,
    site: proposal.site,
    base_version: proposal.baseVersion,
    model: JSON.stringify(proposal.model),
    files: JSON.stringify(proposal.files),
    consequences: JSON.stringify(proposal.consequences),
    at: proposal.at,
    actor: proposal.actor,
  })
}

export async function proposalOnSite(reader: Reader, site: string, id: string): Promise<Proposal | undefined> {
  const [row] = await reader.all<ProposalRow>('select * from proposals where id = ? and site = ?', [id, site])
  return (
    row && {
      id: row.id,
      site: row.site,
      baseVersion: row.base_version,
      model: JSON.parse(row.model) as Model,
      files: JSON.parse(row.files) as ModelFile[],
      consequences: JSON.parse(row.consequences) as Consequence[],
      at: row.at,
      actor: row.actor,
    }
  )
}

/** Deletes the proposals of a site: they were compared with a model that is no longer in force. */
export async function deleteProposals(transaction: Transaction, site: string): Promise<void> {
  await transaction.run('delete from proposals where site = ?', [site])
}
