<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\NamesPayer;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Requests for prepayments, and which money came for which. A request whose money was taken back is open again.
 *
 * @phpstan-type Asked array{id: int, number: string, code: string, name: string, party_id: int, asked_on: string, pay_by: string,
 *     currency: string, amount: int, tax_code: string, text: string, state: string, document_id: ?int, document: string, why: string,
 *     left: ?int}
 */
final readonly class PrepaymentRequests implements NamesPayer
{
    public function __construct(
        private Connection $db,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /** @return list<Asked> open ones by the day they are to be paid by, then the others, the last first */
    public function of(int $companyId, int $most = 300): array
    {
        $found = $this->rows('r.company_id = ?', [$companyId], 'ORDER BY r.id DESC LIMIT '.$most);
        usort(
            $found,
            static fn (array $a, array $b): int => [
                'open' !== $a['state'],
                'open' === $a['state'] ? $a['pay_by'] : '',
                -$a['id'],
            ] <=> ['open' !== $b['state'], 'open' === $b['state'] ? $b['pay_by'] : '', -$b['id']],
        );

        return $found;
    }

    /** @return list<Asked> what is asked of one customer and has not come */
    public function openOf(int $partyId, string $currency): array
    {
        return array_values(
            array_filter(
                $this->rows(
                    'r.party_id = ? AND r.currency = ? AND r.withdrawn_on IS NULL',
                    [$partyId, $currency],
                    'ORDER BY r.pay_by, r.id',
                ),
                static fn (array $r): bool => 'open' === $r['state'],
            ),
        );
    }

    /** @return Asked|null */
    public function one(int $companyId, int $id): ?array
    {
        return $this->rows('r.company_id = ? AND r.id = ?', [$companyId, $id], '')[0] ?? null;
    }

    public function payersOf(int $companyId, Side $side, string $begins): array
    {
        /** @var list<array{code: string, name: string}> */
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT p.code, CONCAT(p.name, ', ', r.number) AS name
            FROM prepayment_request r
            JOIN party p ON p.id = r.party_id AND p.side = ? AND p.retired = 0
            LEFT JOIN document d ON d.id = r.document_id AND d.state = 'posted'
            WHERE r.company_id = ? AND r.withdrawn_on IS NULL AND d.id IS NULL AND r.number LIKE ?
            ORDER BY r.number
            LIMIT 12
            SQL
            ,
            [$side->value, $companyId, addcslashes($begins, '%_\\').'%'],
        );
    }

    /**
     * Money came for a request. Call inside a transaction.
     *
     * @throws Refused when it is somebody else's, or is not open any more
     */
    public function received(Actor $actor, int $id, int $documentId): void
    {
        $request = $this->entities->find(PrepaymentRequest::class, $id, LockMode::PESSIMISTIC_WRITE);
        $party = $this->db->fetchOne('SELECT party_id FROM document WHERE id = ?', [$documentId]);
        if (null === $request || $request->companyId !== $actor->companyId || $request->partyId !== (int) $party) {
            throw Refused::because(
                'asked',
                'There is no such request to this customer; choose one of its own.',
                ProblemKind::Unknown,
            );
        }
        $this->entities->refresh($request, LockMode::PESSIMISTIC_WRITE);
        $state = $this->one($actor->companyId, $id)['state'] ?? '';
        if ('open' !== $state) {
            throw Refused::because(
                'asked',
                \sprintf('%s is %s; choose another request, or none.', $request->number, $state),
                ProblemKind::Taken,
            );
        }
        $request->documentId = $documentId;
        $this->entities->flush();
        $this->history->note($actor, 'prepayment_request', $id, 'received');
    }

    /**
     * @param list<mixed> $parameters
     *
     * @return list<Asked>
     */
    private function rows(string $where, array $parameters, string $order): array
    {
        $found = [];
        $rows = $this->db->iterateAssociative(
            <<<SQL
            SELECT r.id, COALESCE(r.number, '') AS number, p.code, p.name, r.party_id, r.asked_on, r.pay_by, r.currency, r.amount,
                COALESCE(t.code, '') AS tax_code, r.text, r.withdrawn_why AS why,
                CASE WHEN r.withdrawn_on IS NOT NULL THEN 'withdrawn' WHEN d.state = 'posted' THEN 'received' ELSE 'open' END AS state,
                IF(d.state = 'posted', d.id, NULL) AS document_id, IF(d.state = 'posted', d.number, '') AS document,
                (SELECT -SUM(i.open) FROM open_item i WHERE i.document_id = d.id AND i.kind = 'prepayment') AS `left`
            FROM prepayment_request r
            JOIN party p ON p.id = r.party_id
            LEFT JOIN tax_code t ON t.id = r.tax_code_id
            LEFT JOIN document d ON d.id = r.document_id
            WHERE $where
            $order
            SQL
            ,
            $parameters,
        );
        foreach ($rows as $r) {
            $r['left'] = null === $r['left'] || 'received' !== $r['state'] ? null : (int) $r['left'];
            $r['document_id'] = null === $r['document_id'] ? null : (int) $r['document_id'];
            foreach (['id', 'party_id', 'amount'] as $int) {
                $r[$int] = (int) $r[$int];
            }
            /** @var Asked $r */
            $found[] = $r;
        }

        return $found;
    }
}
