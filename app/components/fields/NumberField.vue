<script setup lang="ts">
import { computed, nextTick, ref, useId } from 'vue'
import { followDrag } from '~/gestures/drag'

/** A number that can be typed, scrubbed by its label, stepped with arrows (Shift ×10, Alt ÷10) and reset. */
const props = withDefaults(
  defineProps<{
    label: string
    modelValue: number
    unit?: string
    step?: number
    min?: number
    max?: number
    decimals?: number
    resetTo?: number | null
    disabled?: boolean
    hideLabel?: boolean
    /** Reads what was typed; null refuses it. For fields that take more than numbers. */
    parse?: (text: string, current: number) => number | null
  }>(),
  { unit: '', step: 0.01, min: -Infinity, max: Infinity, decimals: 3, resetTo: null, disabled: false, hideLabel: false, parse: undefined },
)

const emit = defineEmits<{
  /** A scrub began; `scrub` follows until `commit` or `cancel`. */
  begin: []
  scrub: [value: number]
  commit: []
  cancel: []
  /** A value typed, stepped or reset: one change on its own. */
  set: [value: number]
}>()

const id = useId()
const typing = ref<string | null>(null)
const wrong = ref(false)
const input = ref<HTMLInputElement | null>(null)

const shown = computed(() => {
  const rounded = Number(props.modelValue.toFixed(props.decimals))
  return String(Object.is(rounded, -0) ? 0 : rounded).replace('-', '−')
})

function kept(value: number): number {
  return Number(Math.min(props.max, Math.max(props.min, value)).toFixed(6))
}

function scrubFrom(down: PointerEvent) {
  if (props.disabled || down.button !== 0) return
  const start = props.modelValue
  followDrag(down, {
    begin: () => emit('begin'),
    move: ({ dx, event }) => {
      const factor = event.shiftKey ? 10 : event.altKey ? 0.1 : 1
      emit('scrub', kept(start + Math.round(dx / 2) * props.step * factor))
    },
    end: () => emit('commit'),
    cancel: () => emit('cancel'),
    click: () => input.value?.focus(),
  })
}

function onKey(event: KeyboardEvent) {
  if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    event.preventDefault()
    const factor = (event.shiftKey ? 10 : event.altKey ? 0.1 : 1) * (event.key === 'ArrowUp' ? 1 : -1)
    typing.value = null
    emit('set', kept(props.modelValue + props.step * factor))
  } else if (event.key === 'Enter') {
    event.preventDefault()
    if (take()) void nextTick(() => input.value?.select())
  } else if (event.key === 'Escape') {
    event.stopPropagation()
    typing.value = null
    wrong.value = false
    input.value?.blur()
  }
}

/** Takes what was typed. False where it is no number in range: it stays, marked. */
function take(): boolean {
  const text = typing.value
  if (text === null) return true
  const plain = text.trim().replace('−', '-').replace(',', '.')
  const bare = plain.replace(/[a-z°%×\s]+$/i, '')
  const value = props.parse ? props.parse(plain, props.modelValue) : bare === '' ? NaN : Number(bare)
  if (value === null || !Number.isFinite(value) || value < props.min || value > props.max) {
    wrong.value = true
    return false
  }
  typing.value = null
  wrong.value = false
  if (Math.abs(value - props.modelValue) > 1e-9) emit('set', value)
  return true
}

function onBlur() {
  if (!take()) {
    typing.value = null
    wrong.value = false
  }
}

const rangeText = computed(() => {
  if (Number.isFinite(props.min) && Number.isFinite(props.max)) return `from ${props.min} to ${props.max}`
  if (Number.isFinite(props.min)) return `at least ${props.min}`
  return 'a number'
})
</script>

<template>
  <div class="number-field" :class="{ wrong, disabled }">
    <label
      :for="id"
      :class="{ 'visually-hidden': hideLabel }"
      title="Drag to change; Shift ×10, Alt ÷10. Double-click resets."
      @pointerdown="scrubFrom"
      @dblclick="resetTo !== null && !disabled && emit('set', resetTo)"
      >{{ label }}</label
    >
    <input
      :id="id"
      ref="input"
      class="mono"
      inputmode="decimal"
      autocomplete="off"
      spellcheck="false"
      :value="typing ?? shown"
      :data-kept="typing === null ? '' : undefined"
      :disabled="disabled"
      :aria-invalid="wrong"
      :title="wrong ? `Not taken: ${rangeText} is allowed.` : undefined"
      @focus="(e) => (e.target as HTMLInputElement).select()"
      @input="(e) => { typing = (e.target as HTMLInputElement).value; wrong = false }"
      @keydown="onKey"
      @blur="onBlur"
    />
    <span v-if="unit" class="unit mono" aria-hidden="true">{{ unit }}</span>
    <span v-if="wrong" class="range" role="alert">{{ rangeText }}</span>
  </div>
</template>

<style scoped>
.number-field {
  position: relative;
  display: flex;
  align-items: center;
  gap: 4px;
  min-width: 0;
  height: 26px;
  padding: 0 6px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
}
.number-field:focus-within {
  border-color: var(--blue);
}
.number-field.wrong {
  border-color: var(--vermilion);
}
.number-field.disabled {
  opacity: 0.55;
}
label {
  color: var(--ink-2);
  cursor: ew-resize;
  touch-action: none;
  user-select: none;
  white-space: nowrap;
  line-height: 24px;
}
input {
  flex: 1;
  width: 100%;
  min-width: 0;
  padding: 0;
  border: 0;
  outline: 0;
  background: none;
  color: var(--ink);
  font-size: 12px;
  letter-spacing: -0.02em;
  text-align: right;
}
.unit {
  color: var(--ink-2);
  font-size: 11px;
}
.range {
  position: absolute;
  z-index: 5;
  top: 100%;
  right: 0;
  padding: 1px 6px;
  border-radius: 4px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
  font-size: 11px;
  white-space: nowrap;
}
</style>
