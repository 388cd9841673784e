<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Aging;

use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\Credits;
use Symfony\Component\HttpFoundation\ParameterBag;

/** A figure of an aging that somebody wants to see opened: a line and a column, or all lines and one column. */
final readonly class AgingCell
{
    public const COLUMNS = ['not_due', 'credits', 'prepayments', 'total'];

    /**
     * @param string|null $key of the line; null for the foot
     * @param string $column of COLUMNS, or the number of a bucket
     * @param string|null $currency of the line
     */
    public function __construct(
        public ?string $key,
        public string $column = 'total',
        public ?string $currency = null,
    ) {
    }

    public static function asked(ParameterBag $asked, AgingCriteria $criteria): ?self
    {
        $text = static function (string $key) use ($asked): ?string {
            $value = $asked->all()[$key] ?? null;

            return \is_string($value) ? mb_substr($value, 0, 80) : null;
        };
        [$key, $column, $currency] = [$text('key'), $text('col'), $text('cur')];
        if (null === $key && null === $column) {
            return null;
        }
        $known =
            \in_array($column, self::COLUMNS, true)
            || (1 === preg_match('/\A\d{1,2}\z/', (string) $column) && (int) $column < $criteria->bucketing->count());

        return new self(
            $key,
            $known ? (string) $column : 'total',
            1 === preg_match('/\A[A-Z]{3}\z/', (string) $currency) ? $currency : null,
        );
    }

    /** @return array{string, array<string, string|int>} SQL over item i, party p, document d that begins with AND, and its values */
    public function where(AgingCriteria $criteria): array
    {
        [$sql, $with] = null === $this->key ? ['', []] : $this->ofLine($criteria->rows, $this->key);
        if (null !== $this->currency) {
            $sql .= ' AND i.currency = :cell_currency';
            $with['cell_currency'] = $this->currency;
        }
        $side = $criteria->side;
        if ('credits' === $this->column || 'prepayments' === $this->column) {
            $class = 'credits' === $this->column ? AgingSum::CREDIT : AgingSum::PREPAYMENT;

            return [$sql.' AND '.AgingCriteria::isOf([$class], $side), $with];
        }
        if ('total' === $this->column) {
            return [$sql, $with];
        }
        $classes = array_values(
            array_filter(
                [AgingSum::ITEM, AgingSum::CREDIT, AgingSum::PREPAYMENT],
                static fn (string $c): bool => $criteria->credits->nets($c),
            ),
        );
        $sql .= ' AND '.AgingCriteria::isOf($classes, $side);
        [$from, $to] = $criteria->bucketing->days(
            'not_due' === $this->column ? -1 : (int) $this->column,
            $criteria->asOf,
        );
        foreach (['cell_from' => ['>=', $from], 'cell_to' => ['<=', $to]] as $name => [$than, $day]) {
            if (null !== $day) {
                $sql .= ' AND '.$criteria->column()." $than :$name";
                $with[$name] = $day->iso();
            }
        }

        return [$sql, $with];
    }

    /** What the column is called on the page. */
    public function heading(AgingCriteria $criteria): string
    {
        return match ($this->column) {
            'not_due' => 'not due',
            'credits', 'prepayments' => $this->column,
            'total' => Credits::Own === $criteria->credits ? 'all that is open' : 'all that is open, netted',
            default => $criteria->bucketing->labels($criteria->asOf)[(int) $this->column],
        };
    }

    /** @return array{string, array<string, string|int>} */
    private function ofLine(AgingBy $rows, string $key): array
    {
        $none = <<<'SQL'
         AND (NOT EXISTS (SELECT 1 FROM document_line x WHERE x.document_id = i.document_id)
            OR EXISTS (SELECT 1 FROM document_line x WHERE x.document_id = i.document_id AND x.cost_center_id IS NULL))
        SQL;
        $center = <<<'SQL'
         AND EXISTS (SELECT 1 FROM document_line x WHERE x.document_id = i.document_id AND x.cost_center_id = :line)
        SQL;

        return match ($rows) {
            AgingBy::Party, AgingBy::Account, AgingBy::Group, AgingBy::Salesperson => [
                ' AND '.$rows->key().' = :line',
                ['line' => $key],
            ],
            AgingBy::CostCenter => '0' === $key || '' === $key ? [$none, []] : [$center, ['line' => (int) $key]],
            AgingBy::Document, AgingBy::All => ['', []],
        };
    }
}
