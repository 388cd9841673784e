<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;

/** Links that let one person set a password once, within a day. The database keeps their hash only. */
final readonly class PersonalLinks
{
    private const HOURS = 24;

    public function __construct(
        private Connection $db,
        private EntityManagerInterface $entities,
        private ClockInterface $clock,
    ) {
    }

    /** @return string the link's token; links made before for the same person open nothing any more */
    public function make(User $user): string
    {
        $this->forget($user->id());
        $token = rtrim(strtr(base64_encode(random_bytes(32)), '+/', '-_'), '=');
        $this->db->insert('personal_link', [
            'user_id' => $user->id(),
            'token_hash' => hash('sha256', $token, true),
            'expires_at' => $this->clock
                ->now()
                ->modify('+'.self::HOURS.' hours')
                ->format('Y-m-d H:i:s'),
        ]);

        return $token;
    }

    /** @param bool $take true uses it up; whoever comes second finds nothing */
    public function open(string $token, bool $take = false): ?User
    {
        $row = $this->db->fetchAssociative(
            'SELECT id, user_id FROM personal_link WHERE token_hash = ? AND used_at IS NULL AND expires_at > ?'.
                ($take ? ' FOR UPDATE' : ''),
            [hash('sha256', $token, true), $this->clock->now()->format('Y-m-d H:i:s')],
        );
        $user = false === $row ? null : $this->entities->find(User::class, (int) $row['user_id']);
        if (null === $user || $user->retired) {
            return null;
        }
        if ($take) {
            $this->forget($user->id());
        }

        return $user;
    }

    public function forget(int $userId): void
    {
        $this->db->executeStatement('UPDATE personal_link SET used_at = ? WHERE user_id = ? AND used_at IS NULL', [
            $this->clock->now()->format('Y-m-d H:i:s'),
            $userId,
        ]);
    }
}
