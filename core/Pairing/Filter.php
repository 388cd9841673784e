<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/** Which rows take part in a rule. */
final readonly class Filter
{
    public const OPERATIONS = ['is', 'is not', 'has', 'has not', 'above', 'below'];
    public const AMOUNT = 'amount';

    /**
     * @param string $side left, right or both
     * @param string $field a field of the set, or "amount"
     * @param string $operation one of OPERATIONS; above and below are of the amount
     * @param string $value text, or minor units for an amount
     */
    public function __construct(
        public string $side,
        public string $field,
        public string $operation,
        public string $value,
    ) {
    }

    public function lets(Row $row): bool
    {
        if (self::AMOUNT === $this->field) {
            $limit = (int) $this->value;

            return match ($this->operation) {
                'above' => $row->amount > $limit,
                'below' => $row->amount < $limit,
                'is' => $row->amount === $limit,
                default => $row->amount !== $limit,
            };
        }
        $is = mb_strtolower($row->fields[$this->field] ?? '');
        $value = mb_strtolower($this->value);

        return match ($this->operation) {
            'is' => $is === $value,
            'is not' => $is !== $value,
            'has' => str_contains($is, $value),
            default => !str_contains($is, $value),
        };
    }
}
