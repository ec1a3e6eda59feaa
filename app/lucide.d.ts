declare module 'lucide-vue-next/dist/esm/icons/*' {
  import type { FunctionalComponent } from 'vue'
  import type { LucideProps } from 'lucide-vue-next'

  const icon: FunctionalComponent<LucideProps>
  export default icon
}
