/** What is asked before anything else is there: one sheet in the middle of an empty page. */
import type { ReactNode } from 'react'
import { Mark } from '#web/components/mark.tsx'
import { usePageTitle } from '#web/components/page-title.ts'
import { InterfaceLanguage } from '#web/words/interface-language.tsx'

export function Paper({ title, children }: { title: string; children: ReactNode }) {
  usePageTitle(title)
  return (
    <main className="mx-auto grid min-h-dvh w-full max-w-sm content-center gap-6 p-6">
      <p className="flex items-center gap-3 font-read text-xl font-semibold">
        <Mark /> Tidy Lectern
      </p>
      <h1 className="font-read text-2xl font-semibold">{title}</h1>
      {children}
      <div className="border-t border-base-300 pt-4 text-sm">
        <InterfaceLanguage />
      </div>
    </main>
  )
}
