<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** What a person asked a list for, kept under a name: nobody else's list changes with it. */
final readonly class KeptViews
{
    private const MOST = 30;

    public function __construct(private Connection $db)
    {
    }

    /** @return array<string, array<string, string>> what was asked, by name */
    public function of(Actor $actor, string $list): array
    {
        $views = [];
        foreach (
            $this->db->iterateNumeric(
                'SELECT name, asked FROM kept_view WHERE company_id = ? AND user_id = ? AND list = ? ORDER BY name',
                [$actor->companyId, $actor->userId, $list],
            ) as [$name, $asked]
        ) {
            $values = json_decode((string) $asked, true);
            $views[(string) $name] = \is_array($values) ? array_filter($values, is_string(...)) : [];
        }

        return $views;
    }

    /**
     * @param array<mixed> $asked as an address says it; one of the same name is replaced
     *
     * @throws Refused when the name is missing, or there are too many
     */
    public function keep(Actor $actor, string $list, string $name, array $asked): void
    {
        RecordCheck::name($name, 40, 'view_name');
        $there = $this->of($actor, $list);
        if (!isset($there[$name]) && \count($there) >= self::MOST) {
            throw Refused::because('view_name', 'Thirty views are kept already; drop one first.', ProblemKind::Wrong);
        }
        $plain = [];
        foreach (\array_slice($asked, 0, 20, true) as $key => $value) {
            // a view is looked at on any day
            if (
                \is_string($value)
                && '' !== $value
                && 'as_of' !== $key
                && 1 === preg_match('/\A\w{1,30}\z/', (string) $key)
            ) {
                $plain[(string) $key] = mb_substr($value, 0, 80);
            }
        }
        $this->db->executeStatement(
            <<<'SQL'
            INSERT INTO kept_view (company_id, user_id, list, name, asked)
            VALUES (?, ?, ?, ?, ?)
            ON DUPLICATE KEY UPDATE asked = VALUES(asked)
            SQL
            ,
            [$actor->companyId, $actor->userId, $list, $name, json_encode((object) $plain, \JSON_THROW_ON_ERROR)],
        );
    }

    public function drop(Actor $actor, string $list, string $name): void
    {
        $this->db->executeStatement(
            'DELETE FROM kept_view WHERE company_id = ? AND user_id = ? AND list = ? AND name = ?',
            [$actor->companyId, $actor->userId, $list, $name],
        );
    }
}
