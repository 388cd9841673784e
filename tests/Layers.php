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
            ->excluding(Selector::classname('Nelbix\App\People\SignInController'))
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
}
