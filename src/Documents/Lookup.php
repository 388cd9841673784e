<?php

declare(strict_types=1);

namespace Nelbix\App\Documents;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Parties\Party;
use Nelbix\App\Setup\PaymentTermRecord;
use Nelbix\App\Setup\TaxCodeRecord;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Contracts\Service\ResetInterface;

/** Turns the codes that people and files write into records, and refuses what is unknown or retired. */
final class Lookup implements ResetInterface
{
    /** @var array<string, array<string, int>> */
    private array $codes = [];

    /** @var array<int, array<int, TaxCodeRecord>> */
    private array $taxCodes = [];

    /** @var array<int, array<int, PaymentTermRecord>> */
    private array $terms = [];

    public function __construct(private readonly EntityManagerInterface $entities)
    {
    }

    /** @throws Refused naming $field */
    public function party(int $companyId, Side $side, string $code, string $field = 'party'): Party
    {
        $watched = $this->entities->getUnitOfWork()->size();
        $party = '' === $code ? null : $this->entities->getRepository(Party::class)->findOneBy(['companyId' => $companyId, 'side' => $side, 'code' => $code]);
        // it is only looked at; an import of hundreds would otherwise compare each of them at every document
        if (null !== $party && $this->entities->getUnitOfWork()->size() > $watched) {
            $this->entities->detach($party);
        }
        if (null === $party) {
            throw Refused::because($field, '' === $code ? \sprintf('The %s is missing; choose one.', $side->partyWord()) : \sprintf('There is no %s “%s”; choose one from the list or add it.', $side->partyWord(), mb_strimwidth($code, 0, 30, '…')));
        }
        if ($party->retired) {
            throw Refused::because($field, \sprintf('%s %s is retired; choose another %s.', $party->code, $party->name, $side->partyWord()));
        }

        return $party;
    }

    /** @throws Refused naming $field */
    public function analysis(int $companyId, string $kind, string $code, string $field): ?int
    {
        if ('' === $code) {
            return null;
        }
        $this->codes[$companyId.$kind] ??= array_map('intval', $this->entities->getConnection()->fetchAllKeyValue('SELECT code, id FROM analysis_code WHERE company_id = ? AND kind = ? AND retired = 0', [$companyId, $kind]));

        return $this->codes[$companyId.$kind][$code] ?? throw Refused::because($field, \sprintf('There is no %s “%s”; choose one from the list.', str_replace('_', ' ', $kind), mb_strimwidth($code, 0, 30, '…')));
    }

    /** @return array<int, TaxCodeRecord> by id */
    public function taxCodes(int $companyId): array
    {
        if (!isset($this->taxCodes[$companyId])) {
            $this->taxCodes[$companyId] = [];
            foreach ($this->entities->getRepository(TaxCodeRecord::class)->findBy(['companyId' => $companyId], ['code' => 'ASC']) as $record) {
                $this->taxCodes[$companyId][$record->id()] = $record;
            }
        }

        return $this->taxCodes[$companyId];
    }

    /** @throws Refused naming $field */
    public function taxCode(int $companyId, Side $side, string $code, string $field): ?TaxCodeRecord
    {
        if ('' === $code) {
            return null;
        }
        $use = Side::Payables === $side ? 'purchase' : 'sale';
        foreach ($this->taxCodes($companyId) as $record) {
            if ($record->code === $code && !$record->retired) {
                return $record->usedBy === $use ? $record : throw Refused::because($field, \sprintf('Tax code %s is for a %s, this is a %s; choose another.', $code, $record->usedBy, $use));
            }
        }
        throw Refused::because($field, \sprintf('There is no tax code “%s”; choose one from the list.', mb_strimwidth($code, 0, 30, '…')));
    }

    /** @return array<int, PaymentTermRecord> by id */
    public function terms(int $companyId): array
    {
        if (!isset($this->terms[$companyId])) {
            $this->terms[$companyId] = [];
            foreach ($this->entities->getRepository(PaymentTermRecord::class)->findBy(['companyId' => $companyId], ['code' => 'ASC']) as $record) {
                $this->terms[$companyId][$record->id()] = $record;
            }
        }

        return $this->terms[$companyId];
    }

    /** @throws Refused naming $field */
    public function term(int $companyId, Side $side, string $code, string $field = 'terms'): ?PaymentTermRecord
    {
        if ('' === $code) {
            return null;
        }
        foreach ($this->terms($companyId) as $record) {
            if ($record->code === $code && !$record->retired) {
                $use = Side::Payables === $side ? 'vendors' : 'customers';

                return \in_array($record->usedBy, ['both', $use], true) ? $record : throw Refused::because($field, \sprintf('Terms %s are for %s; choose others.', $code, $record->usedBy));
            }
        }
        throw Refused::because($field, \sprintf('There are no terms “%s”; choose some from the list.', mb_strimwidth($code, 0, 30, '…')));
    }

    /** A posted invoice of a party, by our number or theirs. */
    public function documentOf(int $companyId, Side $side, int $partyId, string $number): ?int
    {
        $id = $this->entities->getConnection()->fetchOne("SELECT id FROM document WHERE company_id = ? AND side = ? AND party_id = ? AND kind IN ('invoice', 'debit_note', 'finance_charge') AND state = 'posted' AND (number = ? OR their_number = ?) ORDER BY id DESC LIMIT 1", [$companyId, $side->value, $partyId, $number, $number]);

        return false === $id ? null : (int) $id;
    }

    public function reset(): void
    {
        $this->codes = $this->taxCodes = $this->terms = [];
    }

    /**
     * An item of a party by our number or theirs, with /2 for the second instalment; open ones first.
     *
     * @return array{id: int, open: int, currency: string}|null
     */
    public function openItem(Side $side, int $partyId, string $name): ?array
    {
        $row = $this->entities->getConnection()->fetchAssociative(
            'SELECT i.id, i.open, i.currency FROM open_item i JOIN document d ON d.id = i.document_id WHERE i.party_id = ? AND i.side = ? AND d.reverses_id IS NULL
             AND (i.number = ? OR d.their_number = ? OR (CONCAT(d.their_number, \'/\', i.part) = ? AND d.their_number <> \'\')) ORDER BY i.open = 0, i.id LIMIT 1',
            [$partyId, $side->value, $name, $name, $name],
        );

        return false === $row ? null : ['id' => (int) $row['id'], 'open' => (int) $row['open'], 'currency' => (string) $row['currency']];
    }
}
