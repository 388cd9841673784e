<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Formats\Payment\PaymentStatus;
use Nelbix\Core\Formats\SafeXml;
use Nelbix\Core\Formats\Ubl\UblReader;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class SafeXmlTest extends TestCase
{
    private const WITH_TYPE = '<?xml version="1.0" encoding="%s"?><!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]><a>&x;</a>';

    /** @return iterable<string, array{string}> the encodings that XML readers must or commonly do know (XML 1.0, 4.3.3) */
    public static function encodings(): iterable
    {
        foreach (['UTF-8', 'UTF-16', 'UTF-16LE', 'UTF-16BE', 'ISO-8859-1'] as $encoding) {
            $xml = mb_convert_encoding(
                \sprintf(self::WITH_TYPE, $encoding),
                'UTF-16' === $encoding ? 'UTF-16LE' : $encoding,
                'UTF-8',
            );
            $mark = ['UTF-16' => "\xFF\xFE", 'UTF-16LE' => "\xFF\xFE", 'UTF-16BE' => "\xFE\xFF"][$encoding] ?? '';
            yield $encoding => [$mark.$xml];
        }
        yield 'UTF-16 without a mark' => [
            mb_convert_encoding(\sprintf(self::WITH_TYPE, 'UTF-16'), 'UTF-16BE', 'UTF-8'),
        ];
        yield 'in other letters' => ["<?xml version='1.0'?>\n<!-- x --><!DOCTYPE\n a><a/>"];
    }

    #[DataProvider('encodings')]
    public function testNoDocumentTypeInAnyEncoding(string $xml): void
    {
        $readers = [
            static fn () => SafeXml::load($xml, 1000, 'a test'),
            static fn () => UblReader::read($xml),
            static fn () => PaymentStatus::read($xml),
        ];
        foreach ($readers as $read) {
            try {
                $read();
                self::fail('It must not be read.');
            } catch (Refused $e) {
                self::assertMatchesRegularExpression('/declares a document type|no well-formed XML/', $e->getMessage());
            }
        }
    }

    public function testWordsInTheTextAreNoDocumentType(): void
    {
        $document = SafeXml::load('<a><!-- <!DOCTYPE a> -->say &lt;!DOCTYPE</a>', 1000, 'a test');
        self::assertSame('say <!DOCTYPE', $document->documentElement?->textContent);
        $this->expectException(Refused::class);
        SafeXml::load('<a>'.str_repeat(' ', 1000).'</a>', 1000, 'a test');
    }
}
