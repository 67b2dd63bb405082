/** What holds for a link to record by. */
import { say } from '#core/words/say.ts'
import { DayField } from '#web/components/fields/day-field.tsx'
import { NameField } from '#web/components/fields/name-field.tsx'
import { PasscodeField } from '#web/components/fields/passcode-field.tsx'
import type { VoiceLink, VoiceLinkChange } from '#web/data/endpoints/voices/voice-links.ts'

interface LinkSettingsProps {
  link: VoiceLink
  onChange: (change: VoiceLinkChange) => Promise<boolean>
}

export function LinkSettings({ link, onChange }: LinkSettingsProps) {
  return (
    <div className="grid gap-2 border-s-2 border-base-300 ps-3 text-sm">
      <NameField name={link.name} onChange={(name) => void onChange({ name })} />
      <DayField label={say('Last day')} value={link.expiresAt} onChange={(expiresAt) => void onChange({ expiresAt })} />
      <PasscodeField link={link} onChange={onChange} />
      <DayField
        label={say('Delete everything recorded by it after')}
        value={link.recordingsEndAt}
        onChange={(recordingsEndAt) => void onChange({ recordingsEndAt })}
      />
      <p className="text-base-content/75">
        {link.kind === 'guest'
          ? say('Then takes by it leave the lecture too, those included that you keep. Editions made before stay.')
          : say('Then answers and names are gone. What was taken away as files stays where it is.')}
      </p>
    </div>
  )
}
