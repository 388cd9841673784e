<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Symfony\Component\Process\Process;

/** Files of payments beside what a library that is not ours makes of the same. */
trait ReferenceLibrary
{
    private static function library(string $script, string $input): string
    {
        $process = new Process(['node', __DIR__.'/'.$script], \dirname(__DIR__, 2), null, $input);
        $process->run();
        self::assertSame(0, $process->getExitCode(), $process->getErrorOutput());

        return $process->getOutput();
    }

    /** @return list<string> every element with a value, with its path */
    private static function leaves(string $space, string $xml): array
    {
        $document = new \DOMDocument();
        self::assertTrue($document->loadXML($xml, \LIBXML_NONET));
        self::assertSame($space, $document->documentElement?->namespaceURI);
        $leaves = [];
        $walk = static function (\DOMElement $e, string $path) use (&$walk, &$leaves): void {
            $children = array_filter(
                iterator_to_array($e->childNodes),
                static fn (\DOMNode $n): bool => $n instanceof \DOMElement,
            );
            if ([] === $children) {
                $leaves[] = $path.'/'.$e->localName.'='.trim($e->textContent);
            }
            foreach ($children as $child) {
                $walk($child, $path.'/'.$e->localName);
            }
        };
        $walk($document->documentElement ?? self::fail(), '');

        return $leaves;
    }
}
