<?php

declare(strict_types=1);

namespace Nelbix\Tests;

use PHPat\Selector\Selector;
use PHPat\Test\Builder\Rule;
use PHPat\Test\PHPat;

/** The layer rules of the house, run with static analysis. */
final class Layers
{
    public function testCoreDependsOnNothingOutside(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Nelbix\Core'))
            ->shouldNotDependOn()
            ->classes(
                Selector::inNamespace('Nelbix\App'),
                Selector::inNamespace('Nelbix\Demo'),
                Selector::inNamespace('Symfony'),
                Selector::inNamespace('Doctrine'),
                Selector::inNamespace('Twig'),
                Selector::inNamespace('Psr'),
            )
            ->because('the rules of the job are pure PHP');
    }

    public function testApplicationDoesNotDependOnTheDemo(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Nelbix\App'))
            ->excluding(Selector::classname('Nelbix\App\Platform\SignInController'))
            ->shouldNotDependOn()
            ->classes(Selector::inNamespace('Nelbix\Demo'))
            ->because('the demo uses the application, not the other way round; only the sign-in page lists its people');
    }

    public function testOnlyTheLedgerWriterMakesEntries(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Nelbix\App'), Selector::inNamespace('Nelbix\Demo'))
            ->excluding(
                Selector::classname('Nelbix\App\Ledger\LedgerWriter'),
                Selector::classname('Nelbix\App\Ledger\JournalLine'),
            )
            ->shouldNotDependOn()
            ->classes(Selector::classname('Nelbix\App\Ledger\JournalLine'))
            ->because('there is one posting path');
    }

    public function testLedgerKnowsNoDocuments(): Rule
    {
        return PHPat::rule()
            ->classes(Selector::inNamespace('Nelbix\App\Ledger'))
            ->shouldNotDependOn()
            ->classes(
                Selector::inNamespace('Nelbix\App\Documents'),
                Selector::inNamespace('Nelbix\App\Settlement'),
                Selector::inNamespace('Nelbix\App\Payables'),
                Selector::inNamespace('Nelbix\App\Board'),
                Selector::inNamespace('Nelbix\App\Close'),
            )
            ->because('documents post to the ledger; the ledger does not know them');
    }

    /** The areas from the ground up; each may know those under it. What must be called upwards goes through an interface below. */
    private const AREAS = [
        'Platform',
        'Work',
        'Ledger',
        'Bank',
        'Codes',
        'Parties',
        'Setup',
        'Documents',
        'Outbox',
        'Batches',
        'Recurring',
        'Receiving',
        'Settlement',
        'Close',
        'Import',
        'Board',
        'Payables',
        'Command',
    ];

    /** @return iterable<Rule> */
    public function testNoCirclesBetweenAreas(): iterable
    {
        foreach (self::AREAS as $k => $area) {
            $above = \array_slice(self::AREAS, $k + 1);
            if ([] !== $above) {
                yield $area => PHPat::rule()
                    ->classes(Selector::inNamespace('Nelbix\App\\'.$area))
                    ->shouldNotDependOn()
                    ->classes(
                        ...array_map(
                            static fn (string $other) => Selector::inNamespace('Nelbix\App\\'.$other),
                            $above,
                        ),
                    )
                    ->because('an area knows only those below it');
            }
        }
    }
}
