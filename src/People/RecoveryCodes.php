<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Psr\Clock\ClockInterface;

/** Codes that each stand in for the second factor once, for when the telephone is lost. The database keeps their hashes only. */
final readonly class RecoveryCodes
{
    private const COUNT = 10;

    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    /** @return list<string> new ones, such as 4f2a9-c81d3; the old ones open nothing any more */
    public function renew(User $user): array
    {
        $this->forget($user);
        $codes = [];
        for ($n = 0; $n < self::COUNT; ++$n) {
            $codes[] = $code = substr_replace(bin2hex(random_bytes(5)), '-', 5, 0);
            $this->db->insert('recovery_code', ['user_id' => $user->id(), 'code_hash' => self::hash($user, $code)]);
        }

        return $codes;
    }

    public function take(User $user, #[\SensitiveParameter] string $typed): bool
    {
        return 1 ===
            (int) $this->db->executeStatement(
                'UPDATE recovery_code SET used_at = ? WHERE user_id = ? AND code_hash = ? AND used_at IS NULL',
                [$this->clock->now()->format('Y-m-d H:i:s'), $user->id(), self::hash($user, $typed)],
            );
    }

    public function left(User $user): int
    {
        return (int) $this->db->fetchOne('SELECT COUNT(*) FROM recovery_code WHERE user_id = ? AND used_at IS NULL', [
            $user->id(),
        ]);
    }

    public function forget(User $user): void
    {
        $this->db->executeStatement('DELETE FROM recovery_code WHERE user_id = ?', [$user->id()]);
    }

    private static function hash(User $user, #[\SensitiveParameter] string $code): string
    {
        return hash('sha256', $user->id().' '.preg_replace('/[^0-9a-f]/', '', strtolower($code)), true);
    }
}
