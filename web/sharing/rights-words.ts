/** Roles and rights as people read them. */
import type { PersonRole, Right, SpaceRight } from '#core/people/rights.ts'
import { type Message, message } from '#core/words/say.ts'

export const ROLE_WORDS: Record<PersonRole, Message> = {
  administrator: message('administrator'),
  teacher: message('teacher'),
  reviewer: message('reviewer'),
}

export const RIGHT_WORDS: Record<Right, Message> = {
  see: message('may watch'),
  comment: message('may comment'),
  edit: message('may change it'),
  own: message('owns it'),
}

export const SPACE_RIGHT_WORDS: Record<SpaceRight, Message> = {
  see: message('may watch its lectures'),
  comment: message('may comment on its lectures'),
  edit: message('may change its lectures'),
  manage: message('manages it'),
}
