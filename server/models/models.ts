import { DataTypes, Model, type CreationOptional, type InferAttributes, type InferCreationAttributes, type Sequelize } from 'sequelize'

type Attributes<M extends Model> = InferAttributes<M>
type Creation<M extends Model> = InferCreationAttributes<M>

export class ProjectRow extends Model<Attributes<ProjectRow>, Creation<ProjectRow>> {
  declare id: string
  declare title: string
  declare rateNumerator: number
  declare rateDenominator: number
  declare widthPx: number
  declare heightPx: number
  declare filmBackMm: number
  declare baseLensMm: number
  declare defaultPanelFrames: number
  declare targetFrames: CreationOptional<number | null>
  declare startTimecodeFrames: CreationOptional<number | null>
  declare dropFrame: CreationOptional<boolean | null>
  declare metresPerFw: CreationOptional<number | null>
  /** Of the outline: the project itself, its sequences, shots and takes by name. */
  declare revision: number
  declare trashedAt: Date | null
  /** Put away: kept whole, out of the way on Home. */
  declare archivedAt: CreationOptional<Date | null>
  declare createdAt: CreationOptional<Date>
  declare updatedAt: CreationOptional<Date>
}

export class SequenceRow extends Model<Attributes<SequenceRow>, Creation<SequenceRow>> {
  declare projectId: string
  declare id: string
  declare position: string
  declare label: string
  declare title: string
  declare targetFrames: number | null
}

export class ShotRow extends Model<Attributes<ShotRow>, Creation<ShotRow>> {
  declare projectId: string
  declare id: string
  declare sequenceId: string
  declare position: string
  declare label: string
  declare title: string
  declare circledTakeId: string
  declare targetFrames: CreationOptional<number | null>
  declare inTray: CreationOptional<true | null>
  declare startsAt: CreationOptional<number | null>
  declare againOf: CreationOptional<string | null>
}

export class TakeRow extends Model<Attributes<TakeRow>, Creation<TakeRow>> {
  declare projectId: string
  declare id: string
  declare shotId: string
  declare position: string
  declare letter: string
  declare name: string | null
  declare lengthFrames: number
  declare format: number
  declare body: object
  declare revision: number
  /** Taken out of the outline; the body stays, so that undo finds it. */
  declare removedAt: Date | null
}

export class PassageRow extends Model<Attributes<PassageRow>, Creation<PassageRow>> {
  declare projectId: string
  declare id: string
  declare position: string
  declare kind: string
  declare speaker: string
  declare manner: string
  declare text: string
  declare sequenceId: string | null
}

export class RulerMarkRow extends Model<Attributes<RulerMarkRow>, Creation<RulerMarkRow>> {
  declare projectId: string
  declare id: string
  declare shotId: string
  declare offsetFrames: number
  declare name: string
  declare meaning: string
}

export class LaneRow extends Model<Attributes<LaneRow>, Creation<LaneRow>> {
  declare projectId: string
  declare id: string
  declare position: string
  declare name: string
  declare kind: string
  declare gainDb: number
  declare muted: boolean
  declare soloed: boolean
}

export class ClipRow extends Model<Attributes<ClipRow>, Creation<ClipRow>> {
  declare projectId: string
  declare id: string
  declare laneId: string
  declare shotId: string | null
  declare offsetFrames: number
  declare assetHash: string
  declare name: string
  declare sourceSeconds: number
  declare fromSeconds: number
  declare lengthSeconds: number
  declare gainDb: number
  declare fadeInSeconds: number
  declare fadeOutSeconds: number
  declare speaker: string
  declare line: string
  declare passageId: string | null
  declare panelId: string | null
}

export class TransitionRow extends Model<Attributes<TransitionRow>, Creation<TransitionRow>> {
  declare projectId: string
  declare id: string
  declare at: string
  declare kind: string
  declare lengthFrames: number
  declare place: string
  declare angleDegrees: number
  declare softness: number
  declare colour: string
  declare soundToo: boolean
}

export class SetNameRow extends Model<Attributes<SetNameRow>, Creation<SetNameRow>> {
  declare projectId: string
  declare id: string
  declare position: string
  declare name: string
  /** Where it stands in a shot that it is put into. */
  declare stands: object
}

export class LinkRow extends Model<Attributes<LinkRow>, Creation<LinkRow>> {
  declare projectId: string
  declare id: string
  declare passageId: string
  declare takeId: string
  declare panelId: string
  declare words: string
}

class AssetRow extends Model<Attributes<AssetRow>, Creation<AssetRow>> {
  declare hash: string
  declare kind: string
  declare type: string
  /** Of a sound. */
  declare seconds: number | null
  declare widthPx: number
  declare heightPx: number
  declare bytes: number
  declare touchedAt: CreationOptional<Date>
}

export class JournalRow extends Model<Attributes<JournalRow>, Creation<JournalRow>> {
  declare seq: CreationOptional<string>
  declare projectId: string
  declare changeId: string
  declare label: string
  /** The name the artist gave; empty where none was. */
  declare author: CreationOptional<string>
  declare edits: object
  /** Unit key → revision after the change. */
  declare revisions: object
  declare createdAt: CreationOptional<Date>
}

class PresenceRow extends Model<Attributes<PresenceRow>, Creation<PresenceRow>> {
  declare projectId: string
  /** One window of one browser. */
  declare session: string
  declare name: string
  declare shotId: string | null
  declare seenAt: Date
}

export class UploadRow extends Model<Attributes<UploadRow>, Creation<UploadRow>> {
  declare id: string
  declare kind: string
  declare bytes: string
  declare createdAt: CreationOptional<Date>
}

export function defineModels(sequelize: Sequelize) {
  const common = { sequelize, underscored: true, timestamps: false }
  // Fresh objects each time: Sequelize writes the column's name into them.
  const key = () => ({ type: DataTypes.TEXT, primaryKey: true })
  const text = () => ({ type: DataTypes.TEXT, allowNull: false })
  const whole = () => ({ type: DataTypes.INTEGER, allowNull: false })
  const real = () => ({ type: DataTypes.DOUBLE, allowNull: false })
  const json = () => ({ type: DataTypes.JSONB, allowNull: false })
  const yes = () => ({ type: DataTypes.BOOLEAN, allowNull: false })
  const maybeText = () => ({ type: DataTypes.TEXT })
  const when = () => ({ type: DataTypes.DATE, allowNull: true })
  ProjectRow.init(
    {
      id: key(),
      title: text(),
      rateNumerator: whole(),
      rateDenominator: whole(),
      widthPx: whole(),
      heightPx: whole(),
      filmBackMm: real(),
      baseLensMm: real(),
      defaultPanelFrames: whole(),
      targetFrames: { type: DataTypes.INTEGER },
      startTimecodeFrames: { type: DataTypes.INTEGER },
      dropFrame: { type: DataTypes.BOOLEAN },
      metresPerFw: { type: DataTypes.DOUBLE },
      revision: whole(),
      trashedAt: when(),
      archivedAt: when(),
      createdAt: DataTypes.DATE,
      updatedAt: DataTypes.DATE,
    },
    { ...common, tableName: 'projects', timestamps: true },
  )
  SequenceRow.init(
    { projectId: key(), id: key(), position: text(), label: text(), title: text(), targetFrames: { type: DataTypes.INTEGER } },
    { ...common, tableName: 'sequences' },
  )
  ShotRow.init(
    { projectId: key(), id: key(), sequenceId: text(), position: text(), label: text(), title: text(), circledTakeId: text(), targetFrames: { type: DataTypes.INTEGER }, inTray: { type: DataTypes.BOOLEAN }, startsAt: { type: DataTypes.INTEGER }, againOf: { type: DataTypes.TEXT } },
    { ...common, tableName: 'shots' },
  )
  TakeRow.init(
    {
      projectId: key(),
      id: key(),
      shotId: text(),
      position: text(),
      letter: text(),
      name: { type: DataTypes.TEXT },
      lengthFrames: whole(),
      format: whole(),
      body: json(),
      revision: whole(),
      removedAt: when(),
    },
    { ...common, tableName: 'takes' },
  )
  AssetRow.init({ hash: key(), kind: text(), seconds: { type: DataTypes.DOUBLE }, type: text(), widthPx: whole(), heightPx: whole(), bytes: whole(), touchedAt: DataTypes.DATE }, { ...common, tableName: 'assets' })
  JournalRow.init(
    {
      seq: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
      projectId: text(),
      changeId: text(),
      label: text(),
      author: text(),
      edits: json(),
      revisions: json(),
      createdAt: DataTypes.DATE,
    },
    { ...common, tableName: 'journal', timestamps: true, updatedAt: false },
  )
  PresenceRow.init(
    { projectId: key(), session: key(), name: text(), shotId: { type: DataTypes.TEXT }, seenAt: when() },
    { ...common, tableName: 'presence' },
  )
  UploadRow.init(
    { id: key(), kind: text(), bytes: { type: DataTypes.BIGINT, allowNull: false }, createdAt: DataTypes.DATE },
    { ...common, tableName: 'uploads', timestamps: true, updatedAt: false },
  )
  PassageRow.init(
    { projectId: key(), id: key(), position: text(), kind: text(), speaker: text(), manner: text(), text: text(), sequenceId: { type: DataTypes.TEXT } },
    { ...common, tableName: 'passages' },
  )
  LinkRow.init({ projectId: key(), id: key(), passageId: text(), takeId: text(), panelId: text(), words: text() }, { ...common, tableName: 'links' })
  SetNameRow.init({ projectId: key(), id: key(), position: text(), name: text(), stands: json() }, { ...common, tableName: 'set_names' })
  RulerMarkRow.init({ projectId: key(), id: key(), shotId: text(), offsetFrames: whole(), name: text(), meaning: text() }, { ...common, tableName: 'ruler_marks' })
  LaneRow.init({ projectId: key(), id: key(), position: text(), name: text(), kind: text(), gainDb: real(), muted: yes(), soloed: yes() }, { ...common, tableName: 'sound_lanes' })
  ClipRow.init(
    {
      projectId: key(),
      id: key(),
      laneId: text(),
      shotId: maybeText(),
      offsetFrames: real(),
      assetHash: text(),
      name: text(),
      sourceSeconds: real(),
      fromSeconds: real(),
      lengthSeconds: real(),
      gainDb: real(),
      fadeInSeconds: real(),
      fadeOutSeconds: real(),
      speaker: text(),
      line: text(),
      passageId: maybeText(),
      panelId: maybeText(),
    },
    { ...common, tableName: 'sound_clips' },
  )
  TransitionRow.init(
    { projectId: key(), id: key(), at: text(), kind: text(), lengthFrames: whole(), place: text(), angleDegrees: real(), softness: real(), colour: text(), soundToo: yes() },
    { ...common, tableName: 'transitions' },
  )
  return { LaneRow, ClipRow, TransitionRow, SetNameRow, PassageRow, LinkRow, RulerMarkRow, UploadRow, PresenceRow, ProjectRow, SequenceRow, ShotRow, TakeRow, AssetRow, JournalRow }
}

export type Models = ReturnType<typeof defineModels>
