/** Who is at work here, as far as the page knows: whether the server still knows the person too. */

type Refusal = 'signed-out' | 'not-permitted' | 'signed-in';

class Session {
  private readonly listeners = new Set<(refusal: Refusal) => void>();

  /** True once the server has said that it does not know who asks, or a guest wants to sign in. */
  signedOut = false;

  /** Why somebody is asked: something was refused, not a guest's wish. */
  isRefused = false;

  /** Looks at the status of each answer: 401 ends the session, 403 means that rights are others than thought. */
  note(status: number): void {
    if (status !== 401 && status !== 403) return;
    if (status === 401) {
      this.isRefused ||= !this.signedOut;
      this.signedOut = true;
    }
    this.tell(status === 401 ? 'signed-out' : 'not-permitted');
  }

  /** A guest wants to sign in. */
  begin(): void {
    this.signedOut = true;
    this.tell('signed-out');
  }

  /** The server knows the person again, or a guest goes on as one. */
  signedIn(): void {
    this.signedOut = false;
    this.isRefused = false;
    this.tell('signed-in');
  }

  readonly subscribe = (listener: (refusal: Refusal) => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  private tell(refusal: Refusal): void {
    this.listeners.forEach((listener) => listener(refusal));
  }
}

export const session = new Session();
