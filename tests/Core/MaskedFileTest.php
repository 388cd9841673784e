<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Formats\Payment\Masked;
use PHPUnit\Framework\Attributes\CoversClass;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

#[CoversClass(Masked::class)]
final class MaskedFileTest extends TestCase
{
    /** @return iterable<array{string, string}> as it is made, as it is shown; places of the numbers: ISO 20022, Nacha's record layout */
    public static function files(): iterable
    {
        yield 'an IBAN' => [
            '<Id><IBAN>DE89370400440532013000</IBAN></Id>',
            '<Id><IBAN>••••••••••••••••••3000</IBAN></Id>',
        ];
        yield 'another account' => [
            "<Id><Othr>\n <Id>123456789</Id></Othr></Id><EndToEndId>PY-26-00001</EndToEndId>",
            "<Id><Othr>\n <Id>•••••6789</Id></Othr></Id><EndToEndId>PY-26-00001</EndToEndId>",
        ];
        yield 'with a prefix' => ['<p:IBAN>GB82WEST12345698765432</p:IBAN>', '<p:IBAN>••••••••••••••••••5432</p:IBAN>'];
        yield 'a short one' => ['<Othr><Id>4711</Id></Othr>', '<Othr><Id>4711</Id></Othr>'];
        $batch = '5200TAMARACK 123456789012345678901234';
        $rest = '0000102102VI-26-1        OSPREY ROPE             0021000020000001';
        yield 'an account as long as its field' => [
            '62202100002112345678901234567'.$rest,
            '622021000021•••••••••••••4567'.$rest,
        ];
        yield 'an entry of ACH, and no other record' => [
            $batch."\n622021000021".'77123456         '.$rest,
            $batch."\n622021000021".'••••3456         '.$rest,
        ];
    }

    #[DataProvider('files')]
    public function testOnlyTheLastFourOfAccountsAreShown(string $made, string $shown): void
    {
        self::assertSame($shown, Masked::of($made));
    }
}
