<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Parties\Party;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Finds the parties, documents and items that people and files name, and refuses what is unknown or retired. */
final readonly class Lookup
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /**
     * @param array<string, Party> $atHand by upper-case code, as parties() gives them: these are not read again
     *
     * @throws Refused naming $field
     */
    public function party(int $companyId, Side $side, string $code, string $field = 'party', array $atHand = []): Party
    {
        $party =
            '' === $code
                ? null
                : $atHand[mb_strtoupper($code)] ??
                    (array_values($this->parties($companyId, $side, [$code]))[0] ??
                        $this->named($companyId, $side, $code));
        if (null === $party) {
            throw Refused::because(
                $field,
                '' === $code
                    ? \sprintf('The %s is missing; choose one.', $side->partyWord())
                    : \sprintf(
                        'There is no %s “%s”; choose one from the list or add it.',
                        $side->partyWord(),
                        mb_strimwidth($code, 0, 30, '…'),
                    ),
                '' === $code ? ProblemKind::Missing : ProblemKind::Unknown,
            );
        }
        if ($party->nobody) {
            throw Refused::because(
                $field,
                'Only receipts are taken of a payer who is not known; hand them over once it is, or choose the customer.',
            );
        }
        if ($party->retired) {
            throw Refused::because(
                $field,
                \sprintf('%s %s is retired; choose another %s.', $party->code, $party->name, $side->partyWord()),
            );
        }

        return $party;
    }

    /** The only one of exactly this name, as it was pasted from elsewhere. */
    private function named(int $companyId, Side $side, string $name): ?Party
    {
        $found = $this->entities
            ->getRepository(Party::class)
            ->findBy(['companyId' => $companyId, 'side' => $side, 'name' => $name, 'retired' => false], null, 2);

        return 1 === \count($found) ? $found[0] : null;
    }

    public function code(int $partyId): string
    {
        return (string) $this->entities->getConnection()->fetchOne('SELECT code FROM party WHERE id = ?', [$partyId]);
    }

    /**
     * Many read together, only to be looked at: a file of hundreds would otherwise compare each of them at every document.
     *
     * @param list<string> $codes
     *
     * @return array<string, Party> by upper-case code; what is not there is left out
     */
    public function parties(int $companyId, Side $side, array $codes): array
    {
        $unit = $this->entities->getUnitOfWork();
        $watched = $unit->getIdentityMap()[Party::class] ?? [];
        $found = $this->entities
            ->getRepository(Party::class)
            ->findBy(['companyId' => $companyId, 'side' => $side, 'code' => array_values(array_unique($codes))]);
        $parties = [];
        foreach ($found as $party) {
            if (!isset($watched[$party->id()])) {
                $this->entities->detach($party);
            }
            $parties[mb_strtoupper($party->code)] = $party;
        }

        return $parties;
    }

    /** The same for whoever only looks: retired ones too. @throws Refused naming $field */
    public function anyParty(int $companyId, Side $side, string $code, string $field = 'party'): int
    {
        $id = $this->entities
            ->getConnection()
            ->fetchOne('SELECT id FROM party WHERE company_id = ? AND side = ? AND code = ?', [
                $companyId,
                $side->value,
                $code,
            ]);

        return false === $id
            ? throw Refused::because(
                $field,
                \sprintf('There is no %s “%s”.', $side->partyWord(), mb_strimwidth($code, 0, 30, '…')),
                ProblemKind::Unknown,
            )
            : (int) $id;
    }

    /** A posted invoice of a party, by our number or theirs. */
    public function documentOf(int $companyId, Side $side, int $partyId, string $number): ?int
    {
        $id = $this->entities->getConnection()->fetchOne(
            <<<SQL
            SELECT id
            FROM document
            WHERE company_id = ? AND side = ? AND party_id = ? AND kind IN ('invoice', 'debit_note', 'finance_charge')
                AND state = 'posted' AND (number = ? OR their_number = ?)
            ORDER BY id DESC
            LIMIT 1
            SQL
            ,
            [$companyId, $side->value, $partyId, $number, $number],
        );

        return false === $id ? null : (int) $id;
    }

    /**
     * An item of a party by our number or theirs, with /2 for the second instalment; open ones first.
     *
     * @return array{id: int, open: int, currency: string}|null
     */
    public function openItem(Side $side, int $partyId, string $name): ?array
    {
        $row = $this->entities->getConnection()->fetchAssociative(
            <<<'SQL'
            SELECT i.id, i.open, i.currency
            FROM open_item i
            JOIN document d ON d.id = i.document_id
            WHERE i.party_id = ? AND i.side = ? AND d.reverses_id IS NULL
                AND (i.number = ? OR d.their_number = ? OR (CONCAT(d.their_number, '/', i.part) = ? AND d.their_number <> ''))
            ORDER BY i.open = 0, i.id
            LIMIT 1
            SQL
            ,
            [$partyId, $side->value, $name, $name, $name],
        );

        return false === $row
            ? null
            : ['id' => (int) $row['id'], 'open' => (int) $row['open'], 'currency' => (string) $row['currency']];
    }
}
