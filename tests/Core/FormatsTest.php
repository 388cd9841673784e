<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Formats\CreditorReference;
use Nelbix\Core\Formats\Iban;
use Nelbix\Core\Formats\RoutingNumber;
use Nelbix\Core\Formats\Xlsx;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Numbers with check digits, and the parts of a workbook. */
final class FormatsTest extends TestCase
{
    /**
     * @return iterable<array{string, string|null}> text,
     *                                              the IBAN or null when it is refused. The valid ones are the examples of the ISO
     *                                              13616 registry, from memory
     */
    public static function ibans(): iterable
    {
        yield ['GB82 WEST 1234 5698 7654 32', 'GB82WEST12345698765432'];
        yield ['de89 3704 0044 0532 0130 00', 'DE89370400440532013000'];
        yield ['FR14 2004 1010 0505 0001 3M02 606', 'FR1420041010050500013M02606'];
        yield ['CH93-0076-2011-6238-5295-7', 'CH9300762011623852957'];
        yield ['NO93 8601 1117 947', 'NO9386011117947'];
        yield ['GB82 WEST 1234 5698 7654 33', null]; // last digit
        yield ['GB28 WEST 1234 5698 7654 32', null]; // check digits exchanged
        yield ['DE8937040044053201300', null]; // one short
        yield ['8937040044053201300012', null];
        yield ['', null];
        yield ['DE89 3704 <b>', null];
    }

    #[DataProvider('ibans')]
    public function testIban(string $text, ?string $iban): void
    {
        if (null === $iban) {
            $this->expectException(Refused::class);
        }
        self::assertSame($iban, Iban::read($text));
    }

    public function testIbanIsPrintedInFours(): void
    {
        self::assertSame('GB82 WEST 1234 5698 7654 32', Iban::grouped('GB82WEST12345698765432'));
    }

    /** Every single wrong digit is found. Source: the purpose of MOD 97-10. */
    public function testEveryWrongDigitOfAnIbanIsFound(): void
    {
        $iban = 'DE89370400440532013000';
        for ($k = 2; $k < \strlen($iban); ++$k) {
            $wrong = $iban;
            $wrong[$k] = (string) (((int) $iban[$k] + 1) % 10);
            try {
                Iban::read($wrong);
                self::fail($wrong);
            } catch (Refused) {
                self::addToAssertionCount(1);
            }
        }
    }

    /** RF18 5390 0754 7034 is the example of ISO 11649; RF712348231 stands in the European payments council's guide. From memory. */
    public function testCreditorReference(): void
    {
        self::assertSame('RF18539007547034', CreditorReference::of('539007547034'));
        self::assertSame('RF712348231', CreditorReference::of('2348231'));
        self::assertTrue(CreditorReference::isValid('RF18 5390 0754 7034'));
        self::assertFalse(CreditorReference::isValid('RF18 5390 0754 7035'));
        self::assertFalse(CreditorReference::isValid('RF18'));
        self::assertTrue(CreditorReference::isValid(CreditorReference::of('CI-26-00388')));
        $this->expectException(Refused::class);
        CreditorReference::of(str_repeat('1', 22));
    }

    /** @return iterable<array{string, bool}> 021000021 and 011401533 are well-known valid numbers of US banks, from memory */
    public static function routing(): iterable
    {
        yield ['021000021', true];
        yield ['0114 0153 3', true];
        yield ['021000022', false];
        yield ['012000021', false]; // two digits exchanged
        yield ['000000000', false];
        yield ['21000021', false];
        yield ['02100002x', false];
    }

    #[DataProvider('routing')]
    public function testRoutingNumber(string $text, bool $valid): void
    {
        if (!$valid) {
            $this->expectException(Refused::class);
        }
        self::assertSame(9, \strlen(RoutingNumber::read($text)));
    }

    public function testCellsAreNumbersDatesOrText(): void
    {
        $xml = Xlsx::sheet(
            ['name', 'amount', 'date', 'code'],
            [['<b> & "x"', '-1280.50', '2026-06-15', '1000'], ["bad \x01 char", 7, '1899-01-01', '=1+1']],
        );
        $sheet = simplexml_load_string(implode('', iterator_to_array($xml))) ?: self::fail('not well-formed');
        $cells = [];
        foreach ($sheet->sheetData->row as $row) {
            foreach ($row->c as $c) {
                $cells[(string) $c['r']] = [
                    (string) $c['t'],
                    (string) ('inlineStr' === (string) $c['t'] ? $c->is->t : $c->v),
                ];
            }
        }
        self::assertSame(['inlineStr', 'name'], $cells['A1']);
        self::assertSame(['inlineStr', '<b> & "x"'], $cells['A2']);
        self::assertSame(['', '-1280.50'], $cells['B2']);
        self::assertSame(['', '46188'], $cells['C2']); // 1 January 2026 is day 46023 of a spreadsheet, from memory; 165 days later
        self::assertSame(['inlineStr', '1000'], $cells['D2']);
        self::assertSame(['inlineStr', 'bad  char'], $cells['A3']);
        self::assertSame(['', '7'], $cells['B3']);
        self::assertSame(['inlineStr', '1899-01-01'], $cells['C3']);
        self::assertSame(['inlineStr', '=1+1'], $cells['D3'], 'never a formula');
    }

    /** Widths stand before the rows; totals under them, of decimals in one currency, and they follow the sheet's filter. */
    public function testTotalsAndWidths(): void
    {
        $rows = [['A', '10.25', 'USD', '7'], ['B', '-0.50', 'USD', '8']];
        $sheet = implode(
            '',
            iterator_to_array(Xlsx::sheet(['name', 'open', 'currency', 'n'], $rows, [8, 12, 5, 4], [0, 1, 3])),
        );
        self::assertStringContainsString('<col min="2" max="2" width="12" customWidth="1"/>', $sheet);
        self::assertStringContainsString('<c r="B4" s="4"><f>SUBTOTAL(109,B2:B3)</f><v>9.75</v></c>', $sheet);
        self::assertStringContainsString('<autoFilter ref="A1:D3"/>', $sheet, 'the totals are no row of the list');
        self::assertStringNotContainsString('D2:D3', $sheet, 'whole numbers may be anything');
        $rows[] = ['C', '1.00', 'EUR', '9'];
        $mixed = implode('', iterator_to_array(Xlsx::sheet(['name', 'open', 'currency', 'n'], $rows, [], [1])));
        self::assertStringNotContainsString('SUBTOTAL', $mixed, 'two currencies do not add up');
        self::assertStringNotContainsString('<cols>', $mixed);
    }
}
