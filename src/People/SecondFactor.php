<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Symfony\Component\HttpFoundation\Request;

/** The second factor of a person: begun, asked for at sign-in, ended. */
final readonly class SecondFactor
{
    /** Codes that may be tried in so many seconds. */
    private const MOST = 6;
    private const SECONDS = 300;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ClockInterface $clock,
        private Vault $vault,
        private RecoveryCodes $codes,
        private Presences $presences,
        private SignIns $signIns,
        private PresentPassword $present,
        private Attempts $attempts,
    ) {
    }

    /** @return string a new secret, sealed; it holds once a code of it was typed */
    public function offer(): string
    {
        return $this->vault->seal(random_bytes(20));
    }

    /** @return string the secret's bytes, to be shown to its person once */
    public function reveal(string $sealed): string
    {
        return $this->vault->open($sealed);
    }

    /**
     * @return list<string> the recovery codes
     *
     * @throws Refused naming code
     */
    public function begin(User $user, string $sealed, #[\SensitiveParameter] string $typed, ?Request $request): array
    {
        return $this->transaction->run(function () use ($user, $sealed, $typed, $request): array {
            $user =
                $this->entities->find(User::class, $user->id()) ??
                throw new \LogicException('Who is signed in is there.');
            $this->entities->refresh($user, LockMode::PESSIMISTIC_WRITE);
            if (null !== $user->secondFactor) {
                throw Refused::because(
                    'code',
                    'One holds already; end it with your password first, then begin another.',
                );
            }
            $step = OneTimeCode::match($this->vault->open($sealed), $typed, $this->clock->now()->getTimestamp(), 0);
            $user->secondFactor =
                null !== $step
                    ? $sealed
                    : throw Refused::because(
                        'code',
                        'This is not the code that shows now; look again, and check the clock of the telephone.',
                    );
            $user->secondFactorStep = $step;
            $this->signIns->note($user, 'second factor begun', $request);

            return $this->codes->renew($user);
        });
    }

    /** Lets somebody who gave the password all the way in. @throws Refused naming code */
    public function pass(User $user, int $presence, #[\SensitiveParameter] string $typed, ?Request $request): void
    {
        if (!$this->attempts->allows('second factor of '.$user->id(), self::MOST, self::SECONDS)) {
            $this->presences->end($presence);
            $this->signIns->note($user, 'too many tries', $request);
            throw Refused::because('code', 'Too many tries; sign in again in a few minutes.');
        }
        $right = $this->transaction->run(function () use ($user, $typed): bool {
            $this->entities->refresh($user, LockMode::PESSIMISTIC_WRITE);
            $step = OneTimeCode::match(
                $this->vault->open((string) $user->secondFactor),
                $typed,
                $this->clock->now()->getTimestamp(),
                $user->secondFactorStep,
            );
            $user->secondFactorStep = $step ?? $user->secondFactorStep;

            return null !== $step || $this->codes->take($user, $typed);
        });
        $this->signIns->note($user, $right ? 'signed in' : 'wrong code', $request);
        if (!$right) {
            throw Refused::because('code', 'This code is not right, or was used already; type the one that shows now.');
        }
        $this->presences->confirm($presence);
    }

    /** @throws Refused naming password */
    public function end(User $user, #[\SensitiveParameter] string $password, ?Request $request): void
    {
        $this->present->mustBe($user, $password, 'password', 'This is not your password.');
        $this->take($user);
        $this->signIns->note($user, 'second factor ended', $request);
    }

    /** Takes it away, for somebody who lost the telephone and the recovery codes. */
    public function take(User $user): void
    {
        $this->transaction->run(function () use ($user): void {
            $user = $this->entities->find(User::class, $user->id()) ?? $user;
            $user->secondFactor = null;
            $this->codes->forget($user);
        });
    }
}
