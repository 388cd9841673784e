<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\Camt053Reader;
use Nelbix\Core\Formats\Statement\Mt940Reader;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Formats\Statement\StatementReader;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Statements of banks: what stands in them, that they add up, and that a damaged file is refused or taken whole. */
final class StatementTest extends TestCase
{
    private const MT940 = <<<'TXT'
    {1:F01AAAABB99BSMK3513951576}{2:O9400934081223BBBBAA33XXXX03592332770812230834N}{4:
    :20:123456
    :25:123-304958
    :28C:123/1
    :60F:C090528EUR3723495,
    :61:0905280528D1,20FCHG494935/DEV//67914
    :61:0905280528C30,2NCHK78911//123464
    :61:0905280528C250,NCHK67822//123460
    :61:0905280528D450,S103494933/DEV//PO64118
    FAVOUR K. DESMID
    :61:0905290528D500,NCHK45633//123456
    :86:for the sails, and a line
    that goes on
    :62F:C090528EUR3722824,
    :86:a word about the statement
    -}
    TXT;

    /** After the example of SWIFT Standards, Category 9, MT 940 (from memory), shortened. */
    public function testMt940(): void
    {
        [$statement] = (new Mt940Reader())->read(self::MT940);
        self::assertSame(
            ['123/1', '123-304958', 'EUR', '2009-05-28', 372_349_500, 372_282_400],
            [
                $statement->number,
                $statement->account,
                $statement->currency,
                $statement->from->iso(),
                $statement->opening,
                $statement->closing,
            ],
        );
        self::assertSame(
            [-120, 3_020, 25_000, -45_000, -50_000],
            array_map(static fn(StatementLine $l): int => $l->amount, $statement->lines),
        );
        [, $check, , $favour, $last] = $statement->lines;
        self::assertSame(['78911', '78911', '123464'], [$check->check, $check->reference, $check->bankReference]);
        self::assertSame('FAVOUR K. DESMID', $favour->text);
        self::assertSame('for the sails, and a line that goes on', $last->text);
        self::assertSame(['2009-05-28', '2009-05-29'], [$last->day->iso(), $last->value?->iso()]);
    }

    public function testTheYearTurnsBetweenValueAndEntry(): void
    {
        $text = str_replace([':61:0905290528D500', '090528'], [':61:0912310102D500', '100102'], self::MT940);
        $last = (new Mt940Reader())->read($text)[0]->lines[4];
        self::assertSame(['2010-01-02', '2009-12-31'], [$last->day->iso(), $last->value?->iso()]);
    }

    public function testSubfieldsSayWhoPaidAndWhy(): void
    {
        $said = ':86:166?00CREDIT?20EREF+A1?21invoice 388?30WELADED1?31DE89370400440532013000?32GANNET SAI?33LING';
        $text = str_replace(
            ':86:for the sails, and a line',
            $said,
            str_replace("\n        that goes on", '', self::MT940),
        );
        $last = (new Mt940Reader())->read(str_replace('that goes on', '', $text))[0]->lines[4];
        self::assertSame(
            ['EREF+A1invoice 388', 'GANNET SAILING', 'DE89370400440532013000'],
            [$last->text, $last->party, $last->account],
        );
    }

    private static function camt(string $version = '08'): string
    {
        $status = '08' === $version ? '<Sts><Cd>BOOK</Cd></Sts>' : '<Sts>BOOK</Sts>';
        $name = '08' === $version ? '<Dbtr><Pty><Nm>Gannet</Nm></Pty></Dbtr>' : '<Dbtr><Nm>Gannet</Nm></Dbtr>';
        $amount =
            '08' === $version
                ? static fn(string $a): string => "<Amt Ccy=\"EUR\">$a</Amt><CdtDbtInd>CRDT</CdtDbtInd>"
                : static fn(string $a): string => "<AmtDtls><TxAmt><Amt Ccy=\"EUR\">$a</Amt></TxAmt></AmtDtls>";

        return <<<XML
        <?xml version="1.0" encoding="UTF-8"?>
        <Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.$version"><BkToCstmrStmt><Stmt><Id>S-7</Id>
        <FrToDt><FrDtTm>2026-06-12T00:00:00</FrDtTm><ToDtTm>2026-06-12T23:59:59</ToDtTm></FrToDt>
        <Acct><Id><IBAN>DE89370400440532013000</IBAN></Id><Ccy>EUR</Ccy></Acct>
        <Bal><Tp><CdOrPrtry><Cd>PRCD</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">100.00</Amt><CdtDbtInd>CRDT</CdtDbtInd>
        <Dt><Dt>2026-06-11</Dt></Dt></Bal>
        <Bal><Tp><CdOrPrtry><Cd>CLBD</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">20.50</Amt><CdtDbtInd>DBIT</CdtDbtInd>
        <Dt><Dt>2026-06-12</Dt></Dt></Bal>
        <Ntry><Amt Ccy="EUR">300.00</Amt><CdtDbtInd>CRDT</CdtDbtInd>$status<BookgDt><Dt>2026-06-12</Dt></BookgDt>
        <ValDt><Dt>2026-06-13</Dt></ValDt><AcctSvcrRef>B-1</AcctSvcrRef><NtryDtls>
        <TxDtls><Refs><EndToEndId>NOTPROVIDED</EndToEndId></Refs>{$amount('100.00')}
        <RltdPties>$name<DbtrAcct><Id><IBAN>FI2112345600000785</IBAN></Id></DbtrAcct></RltdPties>
        <RmtInf><Strd><CdtrRefInf><Ref>RF18539007547034</Ref></CdtrRefInf></Strd></RmtInf></TxDtls>
        <TxDtls><Refs><EndToEndId>E-2</EndToEndId></Refs>{$amount('200.00')}
        <RmtInf><Ustrd>invoice 388</Ustrd><Ustrd>and 389</Ustrd></RmtInf></TxDtls></NtryDtls></Ntry>
        <Ntry><Amt Ccy="EUR">420.50</Amt><CdtDbtInd>DBIT</CdtDbtInd><RvslInd>true</RvslInd>$status
        <BookgDt><Dt>2026-06-12</Dt></BookgDt><AddtlNtryInf>returned</AddtlNtryInf></Ntry>
        <Ntry><Amt Ccy="EUR">9.00</Amt><CdtDbtInd>DBIT</CdtDbtInd><Sts>PDNG</Sts><BookgDt><Dt>2026-06-12</Dt></BookgDt></Ntry>
        </Stmt></BkToCstmrStmt></Document>
        XML;
    }

    /** @return iterable<string, array{string}> */
    public static function versions(): iterable
    {
        yield 'camt.053.001.02' => ['02'];
        yield 'camt.053.001.08' => ['08'];
    }

    #[DataProvider('versions')]
    public function testCamt053(string $version): void
    {
        [$s] = (new Camt053Reader())->read(self::camt($version));
        self::assertSame(
            ['S-7', 'DE89370400440532013000', 'EUR', '2026-06-12', '2026-06-12', 10_000, -2_050],
            [$s->number, $s->account, $s->currency, $s->from->iso(), $s->to->iso(), $s->opening, $s->closing],
        );
        // an entry of two payments is a line for each; what is not booked yet is none
        self::assertSame(
            [
                [10_000, 'RF18539007547034', '', 'Gannet', 'FI2112345600000785', false],
                [20_000, 'E-2', 'invoice 388 and 389', '', '', false],
                [-42_050, '', 'returned', '', '', true],
            ],
            array_map(
                static fn(StatementLine $l): array => [
                    $l->amount,
                    $l->reference,
                    $l->text,
                    $l->party,
                    $l->account,
                    $l->reversal,
                ],
                $s->lines,
            ),
        );
    }

    public function testPartsThatDoNotAddUpStayOneLine(): void
    {
        [$s] = (new Camt053Reader())->read(str_replace('>200.00<', '>199.00<', self::camt()));
        self::assertSame([30_000, -42_050], array_map(static fn(StatementLine $l): int => $l->amount, $s->lines));
    }

    /** @return iterable<string, array{StatementReader, string, string}> */
    public static function wrong(): iterable
    {
        $mt = new Mt940Reader();
        $camt = new Camt053Reader();
        $off = str_replace('3722824,', '3722825,', self::MT940);
        yield 'the lines do not lead to the end' => [$mt, $off, '1.00 EUR are missing'];
        yield 'no opening' => [$mt, str_replace(':60F:', ':64:', self::MT940), 'before the opening balance'];
        yield 'no closing' => [$mt, str_replace(':62F:', ':64:', self::MT940), 'has no closing balance'];
        yield 'no amount' => [$mt, str_replace('D1,20F', 'D1.20F', self::MT940), 'Line 6'];
        yield 'no day' => [$mt, str_replace('0905280528D1', '0913280528D1', self::MT940), 'no such day as 091328'];
        yield 'too exact' => [$mt, str_replace('D1,20F', 'D1,205F', self::MT940), 'EUR does not know'];
        yield 'no statement' => [$mt, "hello\n", 'stands before the first field'];
        yield 'empty' => [$mt, '', 'holds no statement'];
        yield 'another currency' => [
            $camt,
            str_replace('<Amt Ccy="EUR">420.50', '<Amt Ccy="USD">420.50', self::camt()),
            'Entry 2 is in USD',
        ];
        yield 'off by a cent' => [$camt, str_replace('>420.50<', '>420.51<', self::camt()), '0.01 EUR are missing'];
        yield 'no sign' => [$camt, str_replace('DBIT', 'DEBIT', self::camt()), 'neither CRDT nor DBIT'];
        yield 'no day of booking' => [$camt, str_replace('BookgDt', 'Booked', self::camt()), 'no booking day'];
        yield 'another message' => [
            $camt,
            str_replace('camt.053', 'camt.052', self::camt()),
            'not a statement in camt.053',
        ];
        yield 'a document type' => [
            $camt,
            str_replace('<Document', '<!DOCTYPE a><Document', self::camt()),
            'declares a document type',
        ];
    }

    #[DataProvider('wrong')]
    public function testWhatIsWrongIsNamed(StatementReader $reader, string $bytes, string $said): void
    {
        $this->expectException(Refused::class);
        $this->expectExceptionMessage($said);
        $reader->read($bytes);
    }

    public function testEachKnowsItsOwn(): void
    {
        foreach (
            [[new Mt940Reader(), self::MT940, self::camt()], [new Camt053Reader(), self::camt(), self::MT940]]
            as $of
        ) {
            [$reader, $own, $other] = $of;
            self::assertTrue($reader->knows($own));
            self::assertFalse($reader->knows($other));
        }
    }

    /** A byte lost, doubled or changed: the file is refused, or what is read adds up. */
    public function testDamagedFilesAreRefusedOrTakenWhole(): void
    {
        mt_srand(20260615);
        foreach ([[new Mt940Reader(), self::MT940], [new Camt053Reader(), self::camt()]] as [$reader, $whole]) {
            $taken = 0;
            for ($n = 0; $n < 1_500; ++$n) {
                $at = mt_rand(0, \strlen($whole) - 1);
                $byte = [\chr(mt_rand(0, 255)), '', str_repeat($whole[$at], 2)][$n % 3];
                try {
                    $statements = $reader->read(substr_replace($whole, $byte, $at, 1));
                } catch (Refused $e) {
                    self::assertNotSame('', $e->getMessage());
                    continue;
                }
                ++$taken;
                foreach ($statements as $s) {
                    self::assertSame($s->closing, $s->sum());
                }
            }
            self::assertGreaterThan(50, $taken, 'a letter of a text may change');
        }
    }

    public function testADifferenceIsSaid(): void
    {
        [$s] = (new Camt053Reader())->read(self::camt());
        $off = new BankStatement($s->number, $s->account, 'EUR', $s->from, $s->to, $s->opening, 5_000, $s->lines);
        $this->expectExceptionMessage(Money::of(7_050, 'EUR')->decimal() . ' EUR are missing');
        $off->check();
    }
}
