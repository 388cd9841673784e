<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Codes\TaxCodeRecord;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds or changes a tax code. A code that stands on posted documents keeps what they were worked out with. */
final readonly class SaveTaxCode
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Chart $chart,
        private CodeBook $codes,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw code, text, rate, use, account, inclusive, recoverable_percent, reverse_account, discount_corrects_tax,
     *                          retired
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, array $raw, ?int $id = null): int
    {
        return $this->transaction->run(function () use ($actor, $raw, $id): int {
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            $record =
                null === $id ? null : $this->entities->find(TaxCodeRecord::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null !== $id && (null === $record || $record->companyId !== $actor->companyId)) {
                throw Refused::because('', 'There is no such tax code in this company.', ProblemKind::Unknown);
            }
            $problems->attempt(
                fn () => null === $record
                    ? RecordCheck::code($this->entities, TaxCodeRecord::class, $actor, $text('code'))
                    : null,
            );
            $problems->attempt(static fn () => RecordCheck::name($text('text'), 160, 'text'));
            $percents = [];
            foreach (
                [
                    'rate' => $text('rate'),
                    'recoverable_percent' => '' === $text('recoverable_percent') ? '100' : $text('recoverable_percent'),
                ] as $field => $value
            ) {
                if (
                    1 !== preg_match('/\A\d{1,3}(\.\d{1,6})?\z/', $value)
                    || BigDecimal::of($value)->isGreaterThan(100)
                ) {
                    $problems->add($field, 'Give a percent from 0 to 100, such as 7.5.');
                }
                $percents[$field] = $value;
            }
            if (!\in_array($text('use'), ['purchase', 'sale'], true)) {
                $problems->add('use', 'The use is purchase or sale.');
            }
            $account = $problems->attempt(
                fn (): int => $this->chart->postable($actor->companyId, $text('account'), 'account'),
            );
            $reverse =
                '' === $text('reverse_account')
                    ? null
                    : $problems->attempt(
                        fn (): int => $this->chart->postable(
                            $actor->companyId,
                            $text('reverse_account'),
                            'reverse_account',
                        ),
                    );
            $yes = static fn (string $key): bool => RecordCheck::yes($text($key));
            if ($yes('inclusive') && '' !== $text('reverse_account')) {
                $problems->add(
                    'inclusive',
                    'Under reverse charge no tax is in the price; a code is inclusive or reverse charge, not both.',
                );
            }
            if ($yes('taxes_prepayments') && ('sale' !== $text('use') || '' !== $text('reverse_account'))) {
                $problems->add('taxes_prepayments', 'Only tax on sales that we owe ourselves is owed of prepayments.');
            }
            $problems->refuse();
            $before = null === $record ? [] : $this->values($actor, $record);
            $record ??= new TaxCodeRecord(
                $actor->companyId,
                $text('code'),
                $text('text'),
                $percents['rate'],
                (int) $account,
                $text('use'),
            );
            $record->text = $text('text');
            $record->rate = $percents['rate'];
            $record->usedBy = $text('use');
            $record->accountId = (int) $account;
            $record->reverseAccountId = $reverse;
            $record->inclusive = $yes('inclusive');
            $record->recoverablePercent = $percents['recoverable_percent'];
            $record->discountCorrectsTax = $yes('discount_corrects_tax');
            $record->badDebtCorrectsTax = $yes('bad_debt_corrects_tax');
            $record->taxesPrepayments = $yes('taxes_prepayments');
            $record->retired = $yes('retired');
            $after = $this->values($actor, $record);
            if (
                [] !== $before
                && false !==
                    $this->entities
                        ->getConnection()
                        ->fetchOne('SELECT 1 FROM document_tax WHERE tax_code_id = ? LIMIT 1', [$id])
            ) {
                foreach (['rate', 'use', 'account', 'inclusive', 'recoverable_percent', 'reverse_account'] as $field) {
                    if ($before[$field] !== $after[$field]) {
                        $problems->add(
                            $field,
                            'Posted documents stand on this code, so this stays as it is; retire the code and add another.',
                        );
                    }
                }
                $problems->refuse();
            }
            $this->entities->persist($record);
            $this->entities->flush();
            $this->codes->reset();
            $this->history->change($actor, 'tax-codes', $record->id(), $before, $after);

            return $record->id();
        });
    }

    /** @return array<string, string> */
    private function values(Actor $actor, TaxCodeRecord $r): array
    {
        $percent = static fn (string $v): string => (string) BigDecimal::of($v)->stripTrailingZeros();

        return [
            'text' => $r->text,
            'rate' => $percent($r->rate),
            'use' => $r->usedBy,
            'account' => $this->chart->account($actor->companyId, $r->accountId)['number'],
            'inclusive' => $r->inclusive ? 'yes' : 'no',
            'recoverable_percent' => $percent($r->recoverablePercent),
            'reverse_account' => null === $r->reverseAccountId
                    ? ''
                    : $this->chart->account($actor->companyId, $r->reverseAccountId)['number'],
            'discount_corrects_tax' => $r->discountCorrectsTax ? 'yes' : 'no',
            'bad_debt_corrects_tax' => $r->badDebtCorrectsTax ? 'yes' : 'no',
            'taxes_prepayments' => $r->taxesPrepayments ? 'yes' : 'no',
            'retired' => $r->retired ? 'yes' : 'no',
        ];
    }
}
