const deeds: Record<string, string> = {
  begun: 'began it',
  submit: 'sent it to review',
  recall: 'took it back',
  approve: 'let it pass',
  send_back: 'sent it back',
  hand_on: 'handed it on',
  cleared: 'changed it after it had passed',
  publish: 'published it',
  schedule: 'set a time to publish it',
  unschedule: 'took it off the schedule',
  'schedule failed': 'could not publish it at its time',
  withdraw: 'withdrew it',
  'dropped its end': 'took back that it ends',
  undo: 'undid its publication',
  properties: 'changed its properties',
  restored: 'restored an earlier text',
  'still true': 'confirmed it as still true',
  'answered a reader': 'answered a reader',
  'put in batch': 'put it in a batch',
}

/** What was done, in words, from the trail's own name for it. */
export const deed = (action: string) => deeds[action] ?? action
