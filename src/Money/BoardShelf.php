<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Settlement\AdjustmentKind;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * Reads where the clerk puts what an item stays short of: it stays owed, is claimed, or is let go. What is let go of all items together
 * above the limit becomes claims that wait for somebody else's word.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
#[Exclude]
final class BoardShelf
{
    /** What a short item can be let go as, by the word in the form. */
    public const LET_GO = [
        'small' => AdjustmentKind::WriteOff,
        'withheld' => AdjustmentKind::Withholding,
        'late' => AdjustmentKind::LateDiscount,
        'bad' => AdjustmentKind::BadDebt,
        'allowance' => AdjustmentKind::BadDebt,
        'charge' => AdjustmentKind::BankCharge,
        'account' => AdjustmentKind::Account,
    ];

    /** @var array<int, AdjustmentRequest> by item, in the sign of a receipt */
    public array $letGo = [];

    /** @var array<int, ClaimRequest> by item */
    public array $claims = [];

    /**
     * @param array<mixed> $raw rest[item]: a key of LET_GO, claim or owed; rest_reason, rest_account, rest_kind, rest_person, rest_on
     * @param array<int, int> $most that can be a small difference, by item
     * @param array<int, int> $lapsed discount that lapsed, by item
     * @param array<int, int> $withheld most that the customer may withhold for its tax office, by item
     */
    public function __construct(
        private readonly Actor $actor,
        private readonly Chart $chart,
        private readonly DateInput $days,
        private readonly string $currency,
        private readonly array $raw,
        private readonly array $most,
        private readonly array $lapsed,
        private readonly array $withheld,
        private readonly ProblemList $problems,
    ) {
    }

    /** @param ItemRow $row an item that stays short of $rest, positive minor units */
    public function read(array $row, int $rest): void
    {
        $id = $row['id'];
        $to = $this->of('rest', $id);
        $kind = self::LET_GO[$to] ?? null;
        $reason = mb_substr($this->of('rest_reason', $id), 0, 255);
        if ('claim' === $to) {
            $this->claim($row, $rest, $reason);

            return;
        }
        if (null === $kind || !$this->mayBe($row, $kind, $rest)) {
            return;
        }
        if (AdjustmentKind::Withholding === $kind && '' === $reason) {
            $this->problems->add(
                'rest_reason.'.$id,
                \sprintf('Type the number of the certificate for what was withheld of %s.', $row['number']),
                ProblemKind::Missing,
            );

            return;
        }
        if ($kind->asksForReason() && '' === $reason) {
            $this->problems->add(
                'rest_reason.'.$id,
                \sprintf('Say why what is left of %s goes to %s.', $row['number'], $kind->word()),
                ProblemKind::Missing,
            );

            return;
        }
        $account = null;
        if ('allowance' === $to) {
            $account = $this->chart->role($this->actor->companyId, AccountRole::BadDebtAllowance);
        }
        if (AdjustmentKind::Account === $kind) {
            $account = $this->problems->attempt(
                fn (): int => $this->chart->ofLine(
                    $this->actor->companyId,
                    $this->of('rest_account', $id),
                    'rest_account.'.$id,
                ),
            );
            if (null === $account) {
                return;
            }
        }
        $this->letGo[$id] = new AdjustmentRequest($id, $kind, -$rest, $account, $reason);
    }

    /** What one person may not let go alone waits as claims. A small difference is within its own tolerance and stays. */
    public function askFor(): void
    {
        foreach ($this->letGo as $id => $a) {
            if ($a->kind->isGivenUp()) {
                $this->claims[$id] = new ClaimRequest(
                    $id,
                    -$a->amount,
                    ClaimKind::WriteOff,
                    '' === $a->reason ? ucfirst($a->kind->word()) : $a->reason,
                    writeOffAs: $a->kind,
                    account: $a->account,
                );
                unset($this->letGo[$id]);
            }
        }
    }

    /** @param ItemRow $row */
    private function claim(array $row, int $rest, string $text): void
    {
        $id = $row['id'];
        if ('' === $text) {
            $this->problems->add(
                'rest_reason.'.$id,
                \sprintf('Say what the claim on %s is about; whoever looks at it next reads it.', $row['number']),
                ProblemKind::Missing,
            );
        }
        $on = $this->of('rest_on', $id);
        $this->claims[$id] = new ClaimRequest(
            $id,
            $rest,
            ClaimKind::tryFrom($this->of('rest_kind', $id)) ?? ClaimKind::Disputed,
            $text,
            $this->of('rest_person', $id),
            '' === $on ? null : $this->problems->attempt(fn (): Day => $this->days->read($on, 'rest_on.'.$id)),
        );
    }

    /** @param ItemRow $row */
    private function mayBe(array $row, AdjustmentKind $kind, int $rest): bool
    {
        [$id, $number] = [$row['id'], $row['number']];
        $wrong = match (true) {
            AdjustmentKind::WriteOff === $kind && $rest > $this->most[$id] => \sprintf(
                'A small difference on %s is at most %s, it is short of %s; leave that owed.',
                $number,
                $this->words($this->most[$id]),
                $this->words($rest),
            ),
            AdjustmentKind::LateDiscount === $kind && $rest > ($this->lapsed[$id] ?? 0) => \sprintf(
                'The discount of %s that lapsed is %s, it is short of %s; say what the rest is instead.',
                $number,
                $this->words($this->lapsed[$id] ?? 0),
                $this->words($rest),
            ),
            AdjustmentKind::Withholding === $kind && $rest > ($this->withheld[$id] ?? 0) => \sprintf(
                'Of %s %s may be withheld, it is short of %s; the percent stands on the customer’s page.',
                $number,
                $this->words($this->withheld[$id] ?? 0),
                $this->words($rest),
            ),
            default => null,
        };
        if (null !== $wrong) {
            $this->problems->add('rest.'.$id, $wrong);
        }

        return null === $wrong;
    }

    private function of(string $key, int $id): string
    {
        return BoardPlacing::value($this->raw, $key, $id);
    }

    private function words(int $minor): string
    {
        return Money::of($minor, $this->currency)->decimal();
    }
}
