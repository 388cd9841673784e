<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/**
 * Where the rows of one side come from: open items or documents of a party, postings of an account, lines of a bank account, or a CSV
 * file.
 */
final readonly class Source
{
    public const KINDS = [
        'items' => 'open items',
        'documents' => 'documents',
        'account' => 'postings of an account',
        'bank' => 'lines of a bank account',
        'file' => 'a CSV file',
    ];

    /** What a row of each kind may be compared by. */
    public const FIELDS = [
        'items' => ['number', 'their number', 'order', 'text', 'kind', 'party'],
        'documents' => ['number', 'their number', 'order', 'text', 'kind', 'party'],
        'account' => ['number', 'text', 'party'],
        'bank' => ['reference', 'text', 'party', 'check'],
    ];

    /**
     * @param int $companyId whose rows they are
     * @param int|null $partyId null for all parties of the side
     * @param int $id of the account, the bank account or the file
     * @param string $since ISO day from which rows count; empty for all
     * @param array<string, string> $columns of a file: amount, date, number and further fields, each with its heading
     * @param string $days how a file writes days
     */
    public function __construct(
        public string $kind,
        public int $companyId,
        public ?Side $side = null,
        public ?int $partyId = null,
        public int $id = 0,
        public string $since = '',
        public array $columns = [],
        public string $days = 'Y-m-d',
        public string $decimal = '.',
    ) {
    }

    /** @param array<mixed> $raw as raw() gives it */
    public static function of(array $raw): self
    {
        $int = static fn (string $key): int => \is_int($raw[$key] ?? null) ? $raw[$key] : 0;
        $text = static fn (string $key): string => \is_string($raw[$key] ?? null) ? $raw[$key] : '';
        if (!isset(self::KINDS[$text('kind')])) {
            throw Refused::because('kind', 'Choose what the rows of this side are.');
        }
        $columns = [];
        foreach (\is_array($raw['columns'] ?? null) ? $raw['columns'] : [] as $field => $heading) {
            if (\is_string($heading) && \is_string($field)) {
                $columns[$field] = $heading;
            }
        }

        return new self(
            $text('kind'),
            $int('company'),
            Side::tryFrom($text('side')),
            0 === $int('party') ? null : $int('party'),
            $int('id'),
            $text('since'),
            $columns,
            '' === $text('days') ? 'Y-m-d' : $text('days'),
            ',' === $text('decimal') ? ',' : '.',
        );
    }

    /** Whether both read the same records, whatever they make of them. */
    public function isOf(self $other): bool
    {
        return [$this->kind, $this->companyId, $this->side, $this->partyId, $this->id] === [
            $other->kind,
            $other->companyId,
            $other->side,
            $other->partyId,
            $other->id,
        ];
    }

    /** @return array<string, mixed> */
    public function raw(): array
    {
        return [
            'kind' => $this->kind,
            'company' => $this->companyId,
            'side' => $this->side->value ?? '',
            'party' => $this->partyId ?? 0,
            'id' => $this->id,
            'since' => $this->since,
            'columns' => $this->columns,
            'days' => $this->days,
            'decimal' => $this->decimal,
        ];
    }

    /** @return list<string> what a row may be compared by */
    public function fields(): array
    {
        return self::FIELDS[$this->kind] ?? array_values(array_diff(array_keys($this->columns), ['amount', 'date']));
    }
}
