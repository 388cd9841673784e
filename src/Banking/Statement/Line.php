<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\CreditorReference;
use Nelbix\Core\Placement\BankLine;

/** A line of a statement. Amounts in minor units of the account's currency; what came in is above zero. */
#[ORM\Entity]
#[ORM\Table(name: 'statement_line')]
class Line
{
    use Stored;

    /** What of the amount has no place yet. */
    #[ORM\Column(type: 'bigint')]
    public int $waiting = 0;

    public function __construct(
        #[ORM\Column] public readonly int $statementId,
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $bankAccountId,
        #[ORM\Column] public readonly int $place,
        #[ORM\Column(type: 'day')] public readonly Day $day,
        #[ORM\Column(type: 'day', nullable: true)] public readonly ?Day $valueDay,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(length: 500)] public readonly string $text,
        #[ORM\Column(length: 120)] public readonly string $reference,
        #[ORM\Column(length: 120)] public readonly string $bankReference,
        #[ORM\Column(length: 140)] public readonly string $party,
        #[ORM\Column(length: 60)] public readonly string $account,
        #[ORM\Column(length: 20)] public readonly string $checkNumber,
        #[ORM\Column] public readonly bool $reversal,
    ) {
        $this->waiting = $amount;
    }

    /** @param array<string, mixed> $r a row of statement_line */
    public static function toFind(array $r): BankLine
    {
        return new BankLine(
            (int) $r['id'],
            Day::of((string) $r['day']),
            (int) $r['waiting'],
            (string) $r['text'],
            (string) $r['reference'],
            (string) $r['party'],
            (string) $r['account'],
            (string) $r['check_number'],
            (bool) $r['reversal'],
            CreditorReference::numberIn((string) $r['reference']),
        );
    }
}
