/** Roles in a word, and what each does at a place. The rule of what a role may do is the server's. */
const ROLES: Record<string, { name: string; does: string; you: string }> = {
  caretaker: { name: 'caretaker', does: 'looks after', you: 'You look after' },
  helper: { name: 'helps', does: 'helps at', you: 'You help at' },
  child: { name: 'child', does: 'is a child at', you: 'You are a child at' },
  reader: { name: 'reads', does: 'sees', you: 'You see' },
  service: { name: 'service', does: 'comes on service to', you: 'You come on service to' },
}
export const roleOf = (role: string) => ROLES[role] ?? { name: role, does: 'is at', you: 'You are at' }
