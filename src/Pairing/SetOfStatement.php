<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\App\Books\Lookup;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\StatementCheck;
use Nelbix\Core\Refused;

/**
 * A vendor's statement, as it was checked, becomes a pairing set: the vendor's open items against its list, with two rules to begin
 * with.
 */
final readonly class SetOfStatement
{
    public function __construct(
        private Transaction $transaction,
        private Lookup $lookup,
        private FileStore $files,
        private SaveSet $saveSet,
        private SaveRule $saveRule,
        private RunPairing $run,
    ) {
    }

    /**
     * @return int the set, which is being run
     *
     * @throws Refused when no line has a number and an amount
     */
    public function make(Desk $desk, string $party, string $statement): int
    {
        $vendor = $this->lookup->party($desk->id(), Side::Payables, $party);
        $currency = $vendor->currency ?? $desk->company->baseCurrency;
        $problems = [];
        $lines = StatementCheck::read($statement, Currency::of($currency), $problems);
        if ([] === $lines) {
            throw Refused::because(
                'statement',
                'No line has a number and an amount; paste the vendor’s list and check it first.',
            );
        }
        $csv = "number,amount,date\n";
        foreach ($lines as $l) {
            $number = '"'.str_replace('"', '""', $l['number']).'"';
            $csv .= $number.','.Money::of($l['amount'], $currency)->decimal().','.$desk->today->iso()."\n";
        }

        return $this->transaction->run(function () use ($desk, $vendor, $currency, $csv): int {
            $file = $this->files->keep(
                $desk->actor,
                SourceRows::SUBJECT,
                null,
                \sprintf('statement of %s, %s', $vendor->name, $desk->today->long()),
                $csv,
                ['text/csv'],
            );
            $set = $this->saveSet->save(
                $desk,
                [
                    'name' => mb_substr(\sprintf('Statement of %s, %s', $vendor->name, $desk->today->long()), 0, 120),
                    'currency' => $currency,
                    'left' => ['kind' => 'items', 'side' => 'payables', 'party' => $vendor->code],
                    'right' => [
                        'kind' => 'file',
                        'file' => (string) $file,
                        'columns' => ['amount' => 'amount', 'date' => 'date', 'number' => 'number'],
                    ],
                    'fields' => [['left' => 'their number', 'right' => 'number', 'name' => 'their number']],
                    'turned' => 'none',
                    'adjusts' => 'left',
                    'group_by' => 'kind',
                ],
                null,
            );
            foreach (
                [
                    ['left' => 'one', 'right' => 'one', 'sole' => '1', 'certain' => '1'],
                    ['left' => 'any', 'right' => 'any', 'within' => '5 %'],
                ] as $rule
            ) {
                $id = $this->saveRule->save($desk->actor, $set, ['agree' => ['their number'], ...$rule], null);
                $this->saveRule->change($desk->actor, $set, $id, 'on');
            }
            $this->run->start($desk->actor, $set);

            return $set;
        });
    }
}
