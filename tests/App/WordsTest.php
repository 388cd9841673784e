<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Platform\Words;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** One is one, and two are two, in every line that counts. */
final class WordsTest extends TestCase
{
    /** @return iterable<array{int, string, string}> */
    public static function counted(): iterable
    {
        yield [0, 'document', '0 documents'];
        yield [1, 'document', '1 document'];
        yield [1200, 'entry', '1,200 entries'];
        yield [2, 'batch', '2 batches'];
        yield [2, 'day', '2 days'];
    }

    #[DataProvider('counted')]
    public function testCounted(int $n, string $one, string $words): void
    {
        self::assertSame($words, Words::count($n, $one));
    }

    /** @return iterable<array{string, string}> of many, of one */
    public static function lines(): iterable
    {
        yield ['vendor items are overdue', 'vendor item is overdue'];
        yield ['vendor documents await approval', 'vendor document awaits approval'];
        yield ['vendor documents were refused', 'vendor document was refused'];
        yield ['vendor drafts wait', 'vendor draft waits'];
        yield ['customer batches are open', 'customer batch is open'];
        yield ['recurring vendor documents are due', 'recurring vendor document is due'];
        yield ['discounts lapse within 7 days', 'discount lapses within 7 days'];
        yield ['deliveries are received and not invoiced', 'delivery is received and not invoiced'];
        yield ['payments were rejected by the bank and stand open', 'payment was rejected by the bank and stands open'];
        yield ['bank files are made and not sent', 'bank file is made and not sent'];
        yield ['invoices are held', 'invoice is held'];
        yield ['tasks from colleagues', 'task from colleagues'];
        yield ['kinds of work wait', 'kind of work waits'];
        yield ['items stay out', 'item stays out'];
    }

    #[DataProvider('lines')]
    public function testAgree(string $many, string $one): void
    {
        self::assertSame([$many, $one], [Words::agree(2, $many), Words::agree(1, $many)]);
    }
}
