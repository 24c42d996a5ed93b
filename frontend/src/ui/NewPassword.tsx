import { TextField } from './Field'

interface Props {
  label: string
  password: string
  again: string
  onPassword: (password: string) => void
  onAgain: (again: string) => void
}

/** A new password, typed twice; says at once if the two are not the same. */
export function NewPassword({ label, password, again, onPassword, onAgain }: Props) {
  return (
    <>
      <TextField
        keep="secret"
        label={label}
        type="password"
        autoComplete="new-password"
        required
        value={password}
        onChange={(event) => onPassword(event.target.value)}
      />
      <TextField
        keep="secret"
        label="The same again"
        type="password"
        autoComplete="new-password"
        required
        value={again}
        onChange={(event) => onAgain(event.target.value)}
        hint={differs(password, again) ? <p className="text-brick">Not the same.</p> : undefined}
      />
    </>
  )
}

export function differs(password: string, again: string): boolean {
  return again !== '' && again !== password
}
