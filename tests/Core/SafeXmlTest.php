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
                self::assertMatchesRegularExpression(
                    '/declares a document type|no well-formed XML|not UTF-8/',
                    $e->getMessage(),
                );
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

    /** @return iterable<string, array{string, string}> what a parser would need minutes or gigabytes for, and what is said */
    public static function tooMuch(): iterable
    {
        $attributes = implode(' ', array_map(static fn (int $n): string => 'a'.$n.'="1"', range(1, 300_000)));
        yield '300,000 attributes' => ['<a '.$attributes.'/>', 'a tag is longer'];
        yield 'a tag without an end' => ['<a '.str_repeat('x', 10_000_000), 'a tag is longer'];
        yield 'a value without an end' => ['<a x="'.str_repeat('>', 1_000_000), 'a tag is longer'];
        yield '19 MB of empty elements' => [
            '<a>'.str_repeat('<b/>', 4_750_000).'</a>',
            'more than 200000 elements',
        ];
        yield 'nested' => [str_repeat('<a>', 51).str_repeat('</a>', 51), 'deeper than 50'];
        yield 'another encoding' => ['<?xml version="1.0" encoding="ISO-8859-1"?><a/>', 'not UTF-8'];
        yield 'no text' => ["<a>\xFF</a>", 'not UTF-8'];
    }

    #[DataProvider('tooMuch')]
    public function testWhatIsTooMuchForAParserIsNotGivenToOne(string $xml, string $said): void
    {
        try {
            SafeXml::load($xml, 64_000_000, 'a test');
            self::fail('It must not be read.');
        } catch (Refused $e) {
            self::assertStringContainsString($said, $e->getMessage());
        }
    }

    public function testWhatLooksLikeMuchIsRead(): void
    {
        $xml =
            "<?xml version='1.0' encoding=\"utf-8\"?><a x='>' y=\"'\"><!-- ".
            str_repeat('<b>', 60).
            ' --><![CDATA['.
            str_repeat('<c>', 60).
            ']]>'.
            str_repeat('<d e="1"/>', 1000).
            str_repeat(' ', 20_000).
            '</a>';
        $document = SafeXml::load($xml, 100_000, 'a test');
        self::assertSame('>', $document->documentElement?->getAttribute('x'));
        self::assertSame(1000, $document->getElementsByTagName('d')->length);
        self::assertNotNull(
            SafeXml::load(str_repeat('<a>', 50).str_repeat('</a>', 50), 1000, 'a test')->documentElement,
        );
    }
}
