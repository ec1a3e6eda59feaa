import { orderOfNumber } from '@rubato/core/document'
import { QueryTypes, type Sequelize } from 'sequelize'

type Migration = { readonly name: string } & ({ readonly sql: string } | { readonly up: (sequelize: Sequelize) => Promise<void> })

/** In order; one that has landed is never changed. */
export const migrations: readonly Migration[] = [
  {
    name: '0001-films',
    sql: `
      CREATE TABLE projects (
        id text PRIMARY KEY,
        title text NOT NULL,
        rate_numerator integer NOT NULL,
        rate_denominator integer NOT NULL,
        width_px integer NOT NULL,
        height_px integer NOT NULL,
        film_back_mm double precision NOT NULL,
        base_lens_mm double precision NOT NULL,
        default_panel_frames integer NOT NULL,
        revision integer NOT NULL DEFAULT 0,
        trashed_at timestamptz,
        created_at timestamptz NOT NULL,
        updated_at timestamptz NOT NULL
      );
      CREATE TABLE sequences (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        position double precision NOT NULL,
        label text NOT NULL,
        title text NOT NULL,
        target_frames integer,
        PRIMARY KEY (project_id, id)
      );
      CREATE TABLE shots (
        project_id text NOT NULL,
        id text NOT NULL,
        sequence_id text NOT NULL,
        position double precision NOT NULL,
        label text NOT NULL,
        title text NOT NULL,
        circled_take_id text NOT NULL,
        PRIMARY KEY (project_id, id),
        FOREIGN KEY (project_id, sequence_id) REFERENCES sequences ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED
      );
      -- A take outlives its shot's row, so that undo finds the body again.
      CREATE TABLE takes (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        shot_id text NOT NULL,
        position double precision NOT NULL,
        letter text NOT NULL,
        length_frames integer NOT NULL,
        format integer NOT NULL,
        body jsonb NOT NULL,
        revision integer NOT NULL DEFAULT 0,
        removed_at timestamptz,
        PRIMARY KEY (project_id, id)
      );
      CREATE INDEX takes_by_shot ON takes (project_id, shot_id);
      CREATE TABLE drawings (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        format integer NOT NULL,
        content jsonb NOT NULL,
        revision integer NOT NULL DEFAULT 0,
        PRIMARY KEY (project_id, id)
      );
      CREATE TABLE assets (
        hash text PRIMARY KEY,
        type text NOT NULL,
        width_px integer NOT NULL,
        height_px integer NOT NULL,
        bytes integer NOT NULL
      );
      CREATE TABLE journal (
        seq bigserial PRIMARY KEY,
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        change_id text NOT NULL,
        label text NOT NULL,
        edits jsonb NOT NULL,
        revisions jsonb NOT NULL,
        created_at timestamptz NOT NULL,
        UNIQUE (project_id, change_id)
      );
      CREATE INDEX journal_by_project ON journal (project_id, seq);
    `,
  },
  {
    name: '0002-together',
    sql: `
      ALTER TABLE journal ADD COLUMN author text NOT NULL DEFAULT '';
      ALTER TABLE projects ADD COLUMN archived_at timestamptz;
      -- Who is here: worth nothing after a crash.
      CREATE UNLOGGED TABLE presence (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        session text NOT NULL,
        name text NOT NULL,
        shot_id text,
        seen_at timestamptz NOT NULL,
        PRIMARY KEY (project_id, session)
      );
    `,
  },
  {
    name: '0003-versions',
    sql: `
      -- What takes and drawings were, once for each different content, whichever versions have it.
      CREATE TABLE bodies (
        hash text PRIMARY KEY,
        content jsonb NOT NULL,
        format integer NOT NULL,
        bytes integer NOT NULL
      );
      CREATE TABLE versions (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        name text NOT NULL,
        reason text NOT NULL,
        author text NOT NULL,
        outline jsonb NOT NULL,
        outline_revision integer NOT NULL,
        shot_count integer NOT NULL,
        length_frames integer NOT NULL,
        created_at timestamptz NOT NULL,
        PRIMARY KEY (project_id, id)
      );
      CREATE TABLE version_units (
        project_id text NOT NULL,
        version_id text NOT NULL,
        kind text NOT NULL,
        unit_id text NOT NULL,
        revision integer NOT NULL,
        length_frames integer NOT NULL,
        body_hash text NOT NULL REFERENCES bodies,
        PRIMARY KEY (project_id, version_id, kind, unit_id),
        FOREIGN KEY (project_id, version_id) REFERENCES versions ON DELETE CASCADE
      );
      CREATE INDEX version_units_by_unit ON version_units (project_id, kind, unit_id, revision);
    `,
  },
  {
    name: '0004-assets-of-projects',
    sql: `
      -- Which pictures a project has ever shown: what a sweep must leave alone. A drawing that shows one puts it here.
      CREATE TABLE project_assets (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        hash text NOT NULL,
        PRIMARY KEY (project_id, hash)
      );
      CREATE INDEX project_assets_by_hash ON project_assets (hash);
      INSERT INTO project_assets (project_id, hash)
        SELECT DISTINCT d.project_id, m.value->>'assetHash' FROM drawings d, jsonb_each(d.content->'marks') m WHERE m.value->>'kind' = 'picture';
    `,
  },
  {
    name: '0005-sounds-and-uploads',
    sql: `
      ALTER TABLE assets ADD COLUMN kind text NOT NULL DEFAULT 'picture';
      ALTER TABLE assets ADD COLUMN seconds double precision;
      CREATE TABLE uploads (
        id text PRIMARY KEY,
        kind text NOT NULL,
        bytes bigint NOT NULL,
        created_at timestamptz NOT NULL
      );
    `,
  },
  {
    name: '0006-script',
    sql: `
      CREATE TABLE passages (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        position double precision NOT NULL,
        kind text NOT NULL,
        speaker text NOT NULL,
        manner text NOT NULL,
        text text NOT NULL,
        sequence_id text,
        PRIMARY KEY (project_id, id)
      );
      CREATE TABLE links (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        passage_id text NOT NULL,
        take_id text NOT NULL,
        panel_id text NOT NULL,
        words text NOT NULL,
        PRIMARY KEY (project_id, id)
      );
      -- So that boards can be laid out before any body is read.
      ALTER TABLE takes ADD COLUMN panel_count integer NOT NULL GENERATED ALWAYS AS (jsonb_array_length(jsonb_path_query_array(body, '$.panels.*'))) STORED;
    `,
  },
  {
    name: '0007-assets-touched',
    sql: `
      -- When the same bytes were last taken in: whoever took them in last may let go of them unused.
      ALTER TABLE assets ADD COLUMN touched_at timestamptz NOT NULL DEFAULT now();
    `,
  },
  {
    name: '0008-timing',
    sql: `
      ALTER TABLE projects ADD COLUMN target_frames integer, ADD COLUMN start_timecode_frames integer, ADD COLUMN drop_frame boolean;
      ALTER TABLE shots ADD COLUMN target_frames integer;
      -- Marks on the ruler.
      CREATE TABLE ruler_marks (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        shot_id text NOT NULL,
        offset_frames integer NOT NULL,
        name text NOT NULL,
        meaning text NOT NULL,
        PRIMARY KEY (project_id, id)
      );
    `,
  },
  {
    name: '0009-sound-and-transitions',
    sql: `
      CREATE TABLE sound_lanes (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        position double precision NOT NULL,
        name text NOT NULL,
        kind text NOT NULL,
        gain_db double precision NOT NULL,
        muted boolean NOT NULL,
        soloed boolean NOT NULL,
        PRIMARY KEY (project_id, id)
      );
      CREATE TABLE sound_clips (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        lane_id text NOT NULL,
        -- Of a shot that is gone, the clip is in the tray; so it refers to none that must be there.
        shot_id text,
        offset_frames double precision NOT NULL,
        asset_hash text NOT NULL,
        name text NOT NULL,
        source_seconds double precision NOT NULL,
        from_seconds double precision NOT NULL,
        length_seconds double precision NOT NULL,
        gain_db double precision NOT NULL,
        fade_in_seconds double precision NOT NULL,
        fade_out_seconds double precision NOT NULL,
        speaker text NOT NULL,
        line text NOT NULL,
        passage_id text,
        panel_id text,
        PRIMARY KEY (project_id, id)
      );
      -- One at each cut, named for the shot it leads into, and one at each end of the film.
      CREATE TABLE transitions (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        at text NOT NULL,
        kind text NOT NULL,
        length_frames integer NOT NULL,
        place text NOT NULL,
        angle_degrees double precision NOT NULL,
        softness double precision NOT NULL,
        colour text NOT NULL,
        sound_too boolean NOT NULL,
        PRIMARY KEY (project_id, id)
      );
    `,
  },
  // Order is a key since format 7. Each number has one key, here as in what browsers have not sent yet.
  { name: '0010-order-keys', up: orderKeys },
  {
    name: '0011-sign-in-tries',
    sql: `
      CREATE TABLE sign_in_tries (
        address text PRIMARY KEY,
        wrong integer NOT NULL,
        last_at timestamptz NOT NULL,
        waits_until timestamptz NOT NULL
      );
    `,
  },
  // Another one after a backup was brought back: places in the journal mean nothing then to those who knew them.
  { name: '0012-epoch', sql: 'CREATE TABLE epoch (id uuid NOT NULL); INSERT INTO epoch VALUES (gen_random_uuid());' },
  // As `rate-limiter-flexible` keeps its counts.
  { name: '0013-sign-in-limits', sql: 'DROP TABLE sign_in_tries; CREATE TABLE sign_in_limits (key varchar(255) PRIMARY KEY, points integer NOT NULL DEFAULT 0, expire bigint);' },
  { name: '0014-take-names', sql: 'ALTER TABLE takes ADD COLUMN name text;' },
  {
    name: '0015-tries',
    sql: `
      CREATE TABLE tries (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        format integer NOT NULL,
        content jsonb NOT NULL,
        revision integer NOT NULL DEFAULT 0,
        PRIMARY KEY (project_id, id)
      );
    `,
  },
  { name: '0016-scale', sql: 'ALTER TABLE projects ADD COLUMN metres_per_fw double precision;' },
  // Which sets a take stands in is counted by the database, as its panels are, so that no body is read to tell.
  {
    name: '0017-sets',
    sql: `
      CREATE TABLE set_names (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        position text NOT NULL,
        name text NOT NULL,
        stands jsonb NOT NULL,
        PRIMARY KEY (project_id, id)
      );
      CREATE TABLE sets (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        format integer NOT NULL,
        content jsonb NOT NULL,
        revision integer NOT NULL DEFAULT 0,
        PRIMARY KEY (project_id, id)
      );
      ALTER TABLE takes ADD COLUMN set_ids jsonb NOT NULL GENERATED ALWAYS AS (jsonb_path_query_array(body, '$.levels.*.setId')) STORED;
    `,
  },
  // What a take shows and asks for is worked out once, and forgotten when something that it was worked out from changes.
  {
    name: '0018-breakdown',
    sql: `
      CREATE TABLE breakdowns (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        id text NOT NULL,
        format integer NOT NULL,
        content jsonb NOT NULL,
        revision integer NOT NULL DEFAULT 0,
        PRIMARY KEY (project_id, id)
      );
      CREATE TABLE take_facts (
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        take_id text NOT NULL,
        -- Of what made them, and of the film's optics.
        made_by text NOT NULL,
        -- The units that they were worked out from.
        uses text[] NOT NULL,
        facts jsonb NOT NULL,
        PRIMARY KEY (project_id, take_id)
      );
      CREATE INDEX take_facts_uses ON take_facts USING gin (uses);
      CREATE INDEX journal_breakdown ON journal (project_id, seq) WHERE revisions ? 'breakdown:film';
    `,
  },
  {
    name: '0019-shots-in-the-tray',
    sql: 'ALTER TABLE shots ADD COLUMN in_tray boolean, ADD COLUMN starts_at integer',
  },
  // Jobs themselves are in a schema of the queue's own; what they are about, and what came of them, is here.
  {
    name: '0020-renders',
    sql: `
      CREATE TABLE renders (
        id text PRIMARY KEY,
        project_id text NOT NULL REFERENCES projects ON DELETE CASCADE,
        version_id text NOT NULL,
        format text NOT NULL,
        about text NOT NULL,
        ask jsonb NOT NULL,
        state text NOT NULL DEFAULT 'running',
        priority integer NOT NULL,
        author text NOT NULL,
        why text,
        created_at timestamptz NOT NULL DEFAULT now(),
        ended_at timestamptz,
        expires_at timestamptz
      );
      CREATE INDEX renders_of_project ON renders (project_id, created_at);
      CREATE INDEX renders_running ON renders (id) WHERE state = 'running';
      CREATE TABLE render_pieces (
        render_id text NOT NULL REFERENCES renders ON DELETE CASCADE,
        number integer NOT NULL,
        -- frames: encoded frames of a file; file: all of it; join: what makes files of the frames of all.
        kind text NOT NULL,
        file integer NOT NULL,
        span_start integer NOT NULL,
        span_end integer NOT NULL,
        -- Frames that stand before those.
        lead integer NOT NULL,
        state text NOT NULL DEFAULT 'waiting',
        job_id uuid NOT NULL,
        worker text,
        changed_at timestamptz NOT NULL DEFAULT now(),
        done_frames integer NOT NULL DEFAULT 0,
        tries integer NOT NULL DEFAULT 0,
        losses integer NOT NULL DEFAULT 0,
        hash text,
        bytes bigint,
        PRIMARY KEY (render_id, number)
      );
      CREATE INDEX render_pieces_by_hash ON render_pieces (hash);
      CREATE TABLE render_files (
        render_id text NOT NULL REFERENCES renders ON DELETE CASCADE,
        number integer NOT NULL,
        name text NOT NULL,
        hash text NOT NULL,
        bytes bigint NOT NULL,
        PRIMARY KEY (render_id, number)
      );
      CREATE INDEX render_files_by_hash ON render_files (hash);
      CREATE TABLE render_workers (
        id text PRIMARY KEY,
        beat_at timestamptz NOT NULL DEFAULT now()
      );
    `,
  },
  {
    name: '0021-copies-that-a-cut-asked-for',
    sql: 'ALTER TABLE shots ADD COLUMN again_of text',
  },
]

async function orderKeys(sequelize: Sequelize): Promise<void> {
  const tables = ['sequences', 'shots', 'takes', 'passages', 'sound_lanes']
  await sequelize.transaction(async (transaction) => {
    const numbers = await sequelize.query<{ position: number }>(tables.map((table) => `SELECT position FROM ${table}`).join(' UNION '), { type: QueryTypes.SELECT, transaction })
    const positions = numbers.map(({ position }) => Number(position))
    for (const table of tables) {
      await sequelize.query(`ALTER TABLE ${table} ADD COLUMN place text`, { transaction })
      await sequelize.query(`UPDATE ${table} t SET place = k.key FROM unnest($1::float8[], $2::text[]) AS k(position, key) WHERE t.position = k.position`, { bind: [positions, positions.map(orderOfNumber)], transaction })
      await sequelize.query(`ALTER TABLE ${table} DROP COLUMN position`, { transaction })
      await sequelize.query(`ALTER TABLE ${table} RENAME COLUMN place TO position`, { transaction })
      await sequelize.query(`ALTER TABLE ${table} ALTER COLUMN position SET NOT NULL`, { transaction })
    }
  })
}
