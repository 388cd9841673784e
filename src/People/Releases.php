<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\Approval\Release;
use Nelbix\Core\Refused;

/** Who took away what kept money from leaving, a hold of a document or a payment stop of a party, and whom that keeps from paying. */
final readonly class Releases
{
    public const DOCUMENT = 'document';
    public const PARTY = 'party';

    public function __construct(private Connection $db, private MayDo $mayDo, private BooksDay $booksDay)
    {
    }

    /**
     * Call inside the transaction that releases.
     *
     * @param string $what such as VI-26-00012, or the stop of somebody
     *
     * @throws Refused for a person who neither set it nor approves
     */
    public function release(Actor $actor, string $subject, int $id, ?int $setBy, string $what, string $field = ''): void
    {
        $why = Release::refuses($actor->userId, $setBy, $this->mayDo->may($actor, Permission::Approve));
        if (null !== $why) {
            throw Refused::because($field, \sprintf('You may not release %s: %s.', $what, $why));
        }
        $this->db->insert('released', [
            'company_id' => $actor->companyId,
            'subject' => $subject,
            'subject_id' => $id,
            'set_by_id' => $setBy,
            'released_by_id' => $actor->userId,
            'released_on' => $this->booksDay->of($actor->companyId)->iso(),
        ]);
    }

    /**
     * @param list<int> $ids documents or parties
     *
     * @return int|null the first that this person may not pay today, having released it
     */
    public function keepsFromPaying(Actor $actor, string $subject, array $ids): ?int
    {
        $today = $this->booksDay->of($actor->companyId)->iso();
        foreach (array_chunk(array_values(array_unique($ids)), 1000) as $chunk) {
            $rows = $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT subject_id, set_by_id, released_by_id, released_on
                FROM released
                WHERE subject = ? AND subject_id IN (?) AND released_on >= ?
                ORDER BY subject_id, id
                SQL
                ,
                [$subject, $chunk, $today],
                [1 => ArrayParameterType::INTEGER],
            );
            foreach ($rows as $r) {
                $setBy = null === $r['set_by_id'] ? null : (int) $r['set_by_id'];
                $sameDay = $today === $r['released_on'];
                if (Release::keepsFromPaying($actor->userId, (int) $r['released_by_id'], $setBy, $sameDay)) {
                    return (int) $r['subject_id'];
                }
            }
        }

        return null;
    }
}
