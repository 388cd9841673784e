<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Psr\Clock\ClockInterface;
use Symfony\Component\HttpFoundation\Request;

/** Sign-ins, good and refused, and what people did to their own way in. */
final readonly class SignIns
{
    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    /** @return array{address: string, agent: string} */
    public static function from(?Request $request): array
    {
        $agent = (string) $request?->headers->get('User-Agent', '');

        return [
            'address' => substr((string) $request?->getClientIp(), 0, 45),
            'agent' => mb_substr(mb_scrub($agent), 0, 190),
        ];
    }

    public function note(User $user, string $what, ?Request $request): void
    {
        $this->write($user->id(), $user->username, $what, $request);
    }

    /** A name that nobody has is kept in part: people type their password there. */
    public function refused(string $name, string $what, ?Request $request): void
    {
        $id = $this->db->fetchOne('SELECT id FROM app_user WHERE username = ?', [mb_scrub($name)]);
        $this->write(
            false === $id ? null : (int) $id,
            false === $id ? mb_substr(mb_scrub($name), 0, 2).'…' : $name,
            $what,
            $request,
        );
    }

    /** @return list<array<string, mixed>> at, what, name, address, agent; the latest first */
    public function of(int $userId): array
    {
        return $this->db->fetchAllAssociative(
            'SELECT at, what, name, address, agent FROM sign_in WHERE user_id = ? ORDER BY id DESC LIMIT 20',
            [$userId],
        );
    }

    /** @return list<array<string, mixed>> of the people of a company and of names that nobody has */
    public function ofCompany(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.at, s.what, s.name, s.address, s.agent
            FROM sign_in s
            WHERE s.user_id IS NULL OR s.user_id IN (SELECT m.user_id FROM membership m WHERE m.company_id = ?)
            ORDER BY s.id DESC
            LIMIT 30
            SQL
            ,
            [$companyId],
        );
    }

    private function write(?int $userId, string $name, string $what, ?Request $request): void
    {
        $this->db->insert('sign_in', [
            'user_id' => $userId,
            'name' => mb_substr($name, 0, 60),
            'at' => $this->clock->now()->format('Y-m-d H:i:s'),
            'what' => $what,
            ...self::from($request),
        ]);
    }
}
