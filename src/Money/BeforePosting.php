<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Approval\FarMore;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\FarDay;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\StatementCheck;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;

/**
 * What a person is asked before money is posted: why it is not the one that is there already, whether the day is meant, whether
 * more may be paid than the account holds, or far more than is owed. Source: rules.md, Before posting.
 */
final readonly class BeforePosting
{
    /** Money that comes in is asked about when it is said to come later than this. */
    private const DAYS_AHEAD = 7;

    public function __construct(private Connection $db, private Settings $settings, private BooksDay $booksDay)
    {
    }

    /**
     * @return list<Problem> all of the kind Asks; empty when nobody can be asked, or everything is said
     */
    public function asks(Actor $actor, MoneyInput $input): array
    {
        $answers = $input->answers;
        if (null === $answers) {
            return [];
        }
        $problems = [];
        $alike = '' === $answers->lookAlikeReason ? $this->lookAlike($actor, $input) : null;
        if (null !== $alike) {
            $problems[] = new Problem(
                'look_alike_reason',
                \sprintf(
                    'It looks like %s of %s. Say why it is another one, or post nothing.',
                    $alike['number'],
                    $alike['day'],
                ),
                null,
                ProblemKind::Asks,
            );
        }
        $today = $this->booksDay->of($actor->companyId);
        $ahead = Side::Receivables === $input->side && $today->daysUntil($input->date) > self::DAYS_AHEAD;
        if (($ahead || FarDay::is($input->date, $today)) && !$answers->dayMeant) {
            $problems[] = new Problem('date', FarDay::question($input->date, $today), null, ProblemKind::Asks);
        }
        $short = $answers->moreThanThere ? null : $this->short($actor, $input);
        if (null !== $short) {
            $problems[] = new Problem('more_than_there', $short, null, ProblemKind::Asks);
        }
        $far = $answers->moreThanOwed ? null : $this->farMore($actor, $input);
        if (null !== $far) {
            $problems[] = new Problem('more_than_owed', $far, null, ProblemKind::Asks);
        }

        return $problems;
    }

    /**
     * @return array{number: string, day: string}|null money under the same reference of the bank, whenever it came and whoever sent it;
     *                                                 or of the same party with an equal amount within the window
     */
    private function lookAlike(Actor $actor, MoneyInput $input): ?array
    {
        $key = StatementCheck::key($input->theirReference);
        $same =
            '' === $key
                ? false
                : $this->db->fetchAssociative(
                    <<<'SQL'
                    SELECT number, posting_date
                    FROM document
                    WHERE company_id = ? AND their_key = ? AND side = ? AND kind IN (?, 'prepayment') AND state = 'posted'
                        AND reverses_id IS NULL
                    ORDER BY id DESC
                    LIMIT 1
                    SQL
                    ,
                    [$actor->companyId, $key, $input->side->value, $input->kind->value],
                );
        if (false !== $same) {
            return ['number' => self::name($same['number']), 'day' => Day::of((string) $same['posting_date'])->long()];
        }
        $days = $this->settings->of($actor->companyId)->lookAlikeDays();
        $found = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT number, posting_date
            FROM document
            WHERE company_id = :company AND party_id = :party AND side = :side AND state = 'posted' AND proposal_id IS NULL
                AND kind IN (:kind, 'prepayment') AND currency = :currency AND total = :total
                AND posting_date BETWEEN :from AND :to
            ORDER BY id DESC
            LIMIT 1
            SQL
            ,
            [
                'company' => $actor->companyId,
                'party' => $input->partyId,
                'side' => $input->side->value,
                'kind' => $input->kind->value,
                'currency' => $input->currency,
                'total' => $input->amount,
                'from' => $input->date->plusDays(-$days)->iso(),
                'to' => $input->date->plusDays($days)->iso(),
            ],
        );

        return false === $found
            ? null
            : ['number' => self::name($found['number']), 'day' => Day::of((string) $found['posting_date'])->long()];
    }

    /** What it is called; one of the same file has no number yet. */
    private static function name(mixed $number): string
    {
        return '' === (string) $number ? 'an earlier one' : (string) $number;
    }

    /** In words, when a vendor is paid far more than it is owed; what is a prepayment by name is not. */
    private function farMore(Actor $actor, MoneyInput $input): ?string
    {
        $prepaid = DocumentKind::Prepayment === $input->kind || $input->restIsPrepayment;
        if ($input->sign() > 0 || Side::Payables !== $input->side || $prepaid || $input->amount <= $input->used()) {
            return null;
        }
        $owed = (int) $this->db->fetchOne(
            <<<'SQL'
            SELECT COALESCE(SUM(open), 0)
            FROM open_item
            WHERE company_id = ? AND party_id = ? AND side = ? AND currency = ? AND open <> 0
            SQL
            ,
            [$actor->companyId, $input->partyId, $input->side->value, $input->currency],
        );

        return FarMore::is($input->amount, $owed)
            ? \sprintf(
                '%s %s is paid where %s is owed. Say that so much is meant, or pay less.',
                Money::of($input->amount, $input->currency)->decimal(),
                $input->currency,
                $owed > 0 ? Money::of($owed, $input->currency)->decimal() : 'nothing',
            )
            : null;
    }

    /** In words, when a payment takes more than the bank's ledger account holds. */
    private function short(Actor $actor, MoneyInput $input): ?string
    {
        if ($input->sign() > 0 || Side::Payables !== $input->side) {
            return null;
        }
        $bank = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT b.name, b.currency, COALESCE(SUM(l.base), 0) AS base,
                COALESCE(SUM(IF(e.currency = b.currency, l.amount, 0)), 0) AS amount
            FROM bank_account b
            LEFT JOIN journal_line l ON l.account_id = b.account_id AND l.posting_date <= ?
            LEFT JOIN journal_entry e ON e.id = l.entry_id
            WHERE b.id = ? AND b.company_id = ?
            GROUP BY b.id, b.name, b.currency
            SQL
            ,
            [$input->date->iso(), $input->bankAccountId, $actor->companyId],
        );
        if (false === $bank || $bank['currency'] !== $input->currency) {
            return null;
        }
        $holds = (int) ($bank['currency'] === $actor->baseCurrency ? $bank['base'] : $bank['amount']);

        return $input->amount <= $holds
            ? null
            : \sprintf(
                '%s holds %s %s on %s; %s is more. Say that it may be paid all the same, or pay less.',
                $bank['name'],
                Money::of($holds, $input->currency)->decimal(),
                $input->currency,
                $input->date->long(),
                Money::of($input->amount, $input->currency)->decimal(),
            );
    }
}
