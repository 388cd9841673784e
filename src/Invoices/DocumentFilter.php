<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemList;

/** Which documents a list shows, read from what was typed; what cannot be read is named and does not filter. */
final readonly class DocumentFilter
{
    public const KEYS = [
        'state',
        'party',
        'kind',
        'from',
        'to',
        'least',
        'most',
        'batch',
        'text',
        'who',
        'as_of',
        'lot',
    ];
    public const STATES = [
        'posted' => 'posted',
        'draft' => 'drafts',
        'held' => 'held',
        'awaiting' => 'awaiting approval',
        'reversed' => 'reversed',
        'taken_back' => 'reversals',
        'all' => 'all',
    ];

    public ProblemList $problems;

    /** The day whose open amounts are shown. */
    public Day $asOf;

    /** SQL over document d and what joins() joins; its values are in $with. */
    public string $where;

    /** @var array<string, mixed> */
    public array $with;

    /** @param array<string, string> $typed by KEYS, empty for what does not filter */
    public function __construct(
        public int $companyId,
        public Side $side,
        string $baseCurrency,
        private DateInput $days,
        Day $today,
        public array $typed,
    ) {
        $this->problems = new ProblemList();
        $this->asOf = $this->day('as_of') ?? $today;
        $currency = Currency::of($baseCurrency);
        $asked = [
            ['d.company_id = :company', ['company' => $companyId]],
            ['d.side = :side', ['side' => $side->value]],
            [self::state($typed['state']), []],
            ...$this->names(),
            ['COALESCE(d.posting_date, d.document_date) >= :from', ['from' => $this->day('from')?->iso()]],
            ['COALESCE(d.posting_date, d.document_date) <= :to', ['to' => $this->day('to')?->iso()]],
            ['d.total >= :least', ['least' => $this->amount('least', $currency)]],
            ['d.total <= :most', ['most' => $this->amount('most', $currency)]],
            [
                "(d.state = 'draft' OR d.posting_date <= :as_of)",
                ['as_of' => '' === $typed['as_of'] || $this->asOf->equals($today) ? null : $this->asOf->iso()],
            ],
        ];
        // what nothing was typed for has a null among its values
        $asked = array_filter($asked, static fn (array $a): bool => !\in_array(null, $a[1], true));
        $this->where = implode(' AND ', array_column($asked, 0));
        $this->with = array_merge(...array_column($asked, 1));
    }

    /** The joins that the filter asks for. */
    public function joins(): string
    {
        return ('' === $this->typed['who'] ? '' : ' JOIN app_user u ON u.id = d.created_by_id').
            ('' === $this->typed['batch'] ? '' : ' LEFT JOIN batch b ON b.id = d.batch_id');
    }

    private static function state(string $state): string
    {
        return match ($state) {
            'draft' => "d.waits = 1 AND d.state = 'draft'",
            'held' => "d.waits = 1 AND d.state = 'posted' AND d.held_reason IS NOT NULL",
            'awaiting' => "d.waits = 1 AND d.state = 'posted' AND d.approval IN ('awaiting', 'refused')",
            'reversed' => "d.state = 'reversed'",
            'taken_back' => "d.state = 'reversed' AND d.reverses_id IS NOT NULL",
            'all' => '1 = 1',
            default => "d.state <> 'draft'",
        };
    }

    /** @return list<array{string, array<string, ?string>}> SQL and its values */
    private function names(): array
    {
        $typed = array_map(static fn (string $v): ?string => '' === $v ? null : $v, $this->typed);
        $like = static fn (?string $v): ?string => null === $v ? null : addcslashes($v, '%_\\').'%';

        return [
            [
                // which parties is known before any document is read
                <<<'SQL'
                d.party_id IN (SELECT f.id FROM party f WHERE f.company_id = :company AND f.side = :side
                    AND (f.code = :party OR f.name LIKE :party_like OR f.name LIKE :party_word))
                SQL,
                [
                    'party' => $typed['party'],
                    'party_like' => $like($typed['party']),
                    'party_word' => '% '.$like($typed['party']),
                ],
            ],
            ['d.kind = :kind', ['kind' => $typed['kind']]],
            ['u.username = :who', ['who' => $typed['who']]],
            ['b.name = :batch', ['batch' => $typed['batch']]],
            ['d.lot_id = :lot', ['lot' => $typed['lot']]],
            [
                '(d.number LIKE :text OR d.their_number LIKE :text OR d.description LIKE :text OR d.reference LIKE :text)',
                ['text' => null === $typed['text'] ? null : '%'.$like($typed['text'])],
            ],
        ];
    }

    private function day(string $key): ?Day
    {
        return '' === $this->typed[$key]
            ? null
            : $this->problems->attempt(fn (): Day => $this->days->read($this->typed[$key], $key));
    }

    private function amount(string $key, Currency $currency): ?int
    {
        return '' === $this->typed[$key]
            ? null
            : $this->problems->attempt(fn (): int => AmountInput::read($this->typed[$key], $currency, $key)->minor);
    }
}
