<script setup lang="ts">
import { hingedAt, nearestEdge, planeOf, turnNear, type LevelPlane } from '@rubato/core/depth'
import type { Level } from '@rubato/core/document'
import { hingeOn } from '@rubato/core/stage'
import { computed, useTemplateRef } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useFastening } from '~/composables/levels/useFastening'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import type { FieldEvents } from '~/composables/view/useScrub'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** What carries a level, what it follows of that, and how it faces the camera; of all that are chosen at once. */
const props = defineProps<{ level: Level }>()
const desk = useDeskStore()
const fastening = useFastening()
const film = useFilmStore()
const fields = useLevelFields()

const on = computed(() => (props.level.carrier?.kind === 'level' ? props.level.carrier : null))
const kind = computed(() => props.level.carrier?.kind ?? 'set')
const CARRIED = computed(() => [
  { id: 'set', name: 'set', title: 'It stays where it is in the set' },
  { id: 'level', name: on.value === null ? 'level…' : 'level', title: 'It goes along with another level (or drag its row onto that one’s in the rack)' },
  { id: 'camera', name: 'camera', title: 'It travels with the camera: it is seen at one place, whatever the camera does but for its lens' },
] as const)
const select = useTemplateRef<{ show: () => void }>('select')
const others = computed(() => fastening.carriersFor(desk.chosenLevelIds))
function carry(id: 'set' | 'level' | 'camera') {
  if (id === kind.value) return
  if (id === 'set') fastening.fasten(desk.chosenLevelIds, null)
  else if (id === 'camera') fastening.fasten(desk.chosenLevelIds, { kind: 'camera' })
  else select.value?.show()
}
const FACES = [
  { id: 'turned', name: 'as turned', title: 'It is turned as its numbers say' },
  { id: 'lens', name: 'lens', title: 'To the lens: its plane is always parallel to the picture; its own roll stays' },
  { id: 'upright', name: 'upright', title: 'Upright to the lens: only its pan follows the camera, as people and trees do' },
] as const

/** The pivot in the middle of the nearest edge; the picture stays. */
function hinge() {
  const [frame, carrierId] = [desk.stageFrame, on.value?.levelId]
  if (frame === null || carrierId === undefined) return
  const planes = [props.level, desk.take!.levels[carrierId]!].map((each) => planeOf(desk.standOf(each.id), each.pivot)) as [LevelPlane, LevelPlane]
  const edge = nearestEdge(planes[0], fields.boundsOf(props.level.id), planes[1], fields.boundsOf(carrierId))
  film.perform(`hinge ${props.level.name}`, fields.movePivot(props.level, edge))
}
const opens = computed(() => (desk.take === null || desk.stage === null ? null : hingeOn(desk.take, props.level, desk.stage.seen(desk.read.frame, desk.read.pose ?? undefined, desk.triedHere))))
/** About the same hinge as long as it is scrubbed: laid flat, it could be taken for another. */
function turned(): FieldEvents {
  const about = opens.value!
  return fields.keyed(props.level, 'opening', 'turn', (degrees, { turn }) => ({ turn: turnNear(hingedAt(about.basis, about.hinge, degrees), turn) }))
}
let scrubbed: FieldEvents | null = null
const opening: FieldEvents = {
  begin: () => (scrubbed = turned()).begin(),
  scrub: (degrees) => scrubbed?.scrub(degrees),
  commit: () => scrubbed?.commit(),
  cancel: () => scrubbed?.cancel(),
  set: (degrees) => turned().set(degrees),
}

const follow = (what: 'turn' | 'size') => on.value !== null && fastening.fasten(desk.chosenLevelIds, { ...on.value, [what]: !on.value[what] })
</script>

<template>
  <div class="line">
    <span class="quiet">Carried</span>
    <ChoiceRow label="Carried by" :choices="CARRIED" :model-value="kind" :disabled="level.locked" @update:model-value="carry" />
  </div>
  <div v-show="on !== null" class="line on" data-test="carried-on">
    <span class="quiet">on</span>
    <Select ref="select" class="carrier" :model-value="on?.levelId" :options="[...others]" option-label="name" option-value="id" placeholder="a level" empty-message="There is no other level to hang on" :disabled="level.locked" aria-label="The level that carries it" @update:model-value="(id: string) => fastening.fastenTo(desk.chosenLevelIds, id)" />
    <template v-if="on">
      <button class="chip" :class="{ blue: on.turn }" :aria-pressed="on.turn" :disabled="level.locked" title="It turns as its carrier turns" @click="follow('turn')">turn</button>
      <button class="chip" :class="{ blue: on.size }" :aria-pressed="on.size" :disabled="level.locked" title="It grows as its carrier grows" @click="follow('size')">size</button>
      <button class="chip" :disabled="level.locked || !on.turn" title="Hinge it: its pivot goes to the edge that lies nearest to its carrier, and it turns about that" @click="hinge()">hinge</button>
    </template>
  </div>
  <div v-if="opens" class="line on" data-test="opens">
    <NumberField label="opens" unit="°" :model-value="opens.hinge.degrees" :step="1" :decimals="1" :min="-180" :max="180" :reset-to="90" :disabled="level.locked" title="About its hinge: 0 lies flat in its carrier’s plane, 90 stands on it" v-on="opening" />
  </div>
  <div class="line">
    <span class="quiet">Faces</span>
    <ChoiceRow label="How it faces the camera" :choices="FACES" :model-value="level.facing ?? 'turned'" :disabled="level.locked" @update:model-value="(id) => fastening.face(desk.chosenLevelIds, id === 'turned' ? null : id)" />
  </div>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
.carrier {
  flex: 1;
  min-width: 0;
}
.carrier :deep(.p-select-label) {
  padding: 3px 0 3px 8px;
  font-size: 12px;
}
.carrier :deep(.p-select-dropdown) {
  width: 24px;
}
.on > .quiet {
  text-align: right;
}
</style>
