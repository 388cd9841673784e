<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Money\Money;

/** A set as its form has it: codes instead of numbers. */
final readonly class SetForm
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array<string, mixed> */
    public function of(PairingSet $set): array
    {
        return [
            'name' => $set->name,
            'currency' => $set->currency,
            'left' => $this->source($set->source('left')),
            'right' => $this->source($set->source('right')),
            'fields' => $set->sharedFields,
            'turned' => $set->turned,
            'adjusts' => $set->adjusts,
            'hand_within' => 0 === $set->handWithin ? '' : Money::of($set->handWithin, $set->currency)->decimal(),
            'within' => $set->within(),
            'days' => (string) $set->daysWithin,
            'group_by' => $set->groupByField,
            'shows_other' => $set->showsOther ? 'yes' : '',
            'version' => (string) $set->version,
        ];
    }

    /** @return array<string, mixed> */
    private function source(Source $source): array
    {
        $one = fn (string $sql, int $id): string => (string) $this->db->fetchOne($sql, [$id]);

        return [
            'kind' => $source->kind,
            'company' => $one('SELECT code FROM company WHERE id = ?', $source->companyId),
            'side' => $source->side->value ?? '',
            'party' => null === $source->partyId ? '' : $one('SELECT code FROM party WHERE id = ?', $source->partyId),
            'account' => 'account' === $source->kind ? $one('SELECT number FROM account WHERE id = ?', $source->id) : '',
            'bank' => 'bank' === $source->kind ? $one('SELECT code FROM bank_account WHERE id = ?', $source->id) : '',
            'file' => 'file' === $source->kind ? (string) $source->id : '',
            'since' => $source->since,
            'columns' => $source->columns,
            'days' => $source->days,
            'decimal' => $source->decimal,
        ];
    }
}
