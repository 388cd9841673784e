<?php

declare(strict_types=1);

namespace Nelbix\Tests\House;

use PHPUnit\Framework\TestCase;

/** Each browser test belongs to one of the two halves that run side by side. */
final class SuitesTest extends TestCase
{
    public function testEachBrowserTestIsInOneHalf(): void
    {
        $halves = [];
        $suites = new \DOMXPath(self::configuration());
        foreach ($suites->query('//testsuite[starts-with(@name, "browser-")]/file') ?: [] as $file) {
            $halves[] = (string) $file->nodeValue;
        }
        sort($halves);
        $there = array_map(
            static fn (string $f): string => 'tests/Browser/'.basename($f),
            glob(\dirname(__DIR__).'/Browser/*Test.php') ?: [],
        );
        sort($there);
        self::assertSame($there, $halves);
    }

    private static function configuration(): \DOMDocument
    {
        $configuration = new \DOMDocument();
        self::assertTrue($configuration->load(\dirname(__DIR__, 2).'/phpunit.xml.dist', \LIBXML_NONET));

        return $configuration;
    }
}
