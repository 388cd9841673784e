<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Formats\Statement\Bai2Reader;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\Camt053Reader;
use Nelbix\Core\Formats\Statement\CsvMapping;
use Nelbix\Core\Formats\Statement\CsvStatementReader;
use Nelbix\Core\Formats\Statement\Mt940Reader;
use Nelbix\Core\Formats\Statement\OfxReader;
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
            array_map(static fn (StatementLine $l): int => $l->amount, $statement->lines),
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
                ? static fn (string $a): string => "<Amt Ccy=\"EUR\">$a</Amt><CdtDbtInd>CRDT</CdtDbtInd>"
                : static fn (string $a): string => "<AmtDtls><TxAmt><Amt Ccy=\"EUR\">$a</Amt></TxAmt></AmtDtls>";

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
                static fn (StatementLine $l): array => [
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
        self::assertSame([30_000, -42_050], array_map(static fn (StatementLine $l): int => $l->amount, $s->lines));
    }

    private const BAI2 = <<<'TXT'
    01,122099999,123456789,260616,0200,1,55,,2/
    02,031001234,122099999,1,260615,2359,USD,2/
    03,0975312468,,010,500000,,,015,476130,,/
    16,175,150000,0,B-17,,lockbox 3, and more/
    16,475,93870,,,1001,check paid
    16,495,80000,V,260616,,B-18,WIRE-9,sent to
    88,Fenwick Timber
    49,1300000,7/
    98,1300000,1,9/
    99,1300000,1,11/
    TXT;

    /** Types of BAI version 2 (from memory): 175 check deposit package, 475 check paid, 495 outgoing money transfer. */
    public function testBai2(): void
    {
        [$s] = (new Bai2Reader())->read(self::BAI2);
        self::assertSame(
            ['2026-06-15', '0975312468', 'USD', 500_000, 476_130],
            [$s->number, $s->account, $s->currency, $s->opening, $s->closing],
        );
        self::assertSame(
            [
                [150_000, 'lockbox 3, and more', '', 'B-17', '', null],
                [-93_870, 'check paid', '1001', '', '1001', null],
                [-80_000, 'sent to,Fenwick Timber', 'WIRE-9', 'B-18', '', '2026-06-16'],
            ],
            array_map(
                static fn (StatementLine $l): array => [
                    $l->amount,
                    $l->text,
                    $l->reference,
                    $l->bankReference,
                    $l->check,
                    $l->value?->iso(),
                ],
                $s->lines,
            ),
        );
    }

    private const OFX = <<<'TXT'
    OFXHEADER:100
    DATA:OFXSGML
    VERSION:102
    ENCODING:USASCII

    <OFX><SIGNONMSGSRSV1><SONRS><DTSERVER>20260616</SONRS></SIGNONMSGSRSV1>
    <BANKMSGSRSV1><STMTTRNRS><TRNUID>1<STMTRS><CURDEF>USD
    <BANKACCTFROM><BANKID>121099999<ACCTID>999988<ACCTTYPE>CHECKING</BANKACCTFROM>
    <BANKTRANLIST><DTSTART>20260601<DTEND>20260615120000[-5:EST]
    <STMTTRN><TRNTYPE>CHECK<DTPOSTED>20260604<TRNAMT>-200.00<FITID>00002<CHECKNUM>1025</STMTTRN>
    <STMTTRN><TRNTYPE>CREDIT<DTPOSTED>20260605<TRNAMT>+300.5<FITID>00003<NAME>Gannet &amp; Co<MEMO>invoice 388</STMTTRN>
    </BANKTRANLIST><LEDGERBAL><BALAMT>200.29<DTASOF>20260615</LEDGERBAL></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>
    TXT;

    /** After the example of the OFX Banking Specification, chapter 11 (from memory): 200.29, and check 1025 of 200.00. */
    public function testOfx(): void
    {
        [$s] = (new OfxReader())->read(self::OFX);
        self::assertSame(
            ['121099999 999988', 'USD', '2026-06-01', '2026-06-15', 9_979, 20_029],
            [$s->account, $s->currency, $s->from->iso(), $s->to->iso(), $s->opening, $s->closing],
        );
        self::assertSame(
            [[-20_000, '1025', '00002', '', ''], [30_050, '', '00003', 'Gannet & Co', 'invoice 388']],
            array_map(
                static fn (StatementLine $l): array => [$l->amount, $l->check, $l->bankReference, $l->party, $l->text],
                $s->lines,
            ),
        );
        // the same as XML, where every element ends
        $elements =
            'BANKID|ACCTID|ACCTTYPE|CURDEF|DTSTART|DTEND|TRNTYPE|DTPOSTED|TRNAMT|FITID|CHECKNUM|NAME|MEMO|BALAMT|DTASOF';
        $xml = (string) preg_replace(
            "/<($elements|DTSERVER|TRNUID)>([^<\\n]*)/",
            '<$1>$2</$1>',
            '<?xml version="1.0"?><?OFX OFXHEADER="200" VERSION="211"?>'.strstr(self::OFX, '<OFX>'),
        );
        self::assertEquals($s, (new OfxReader())->read($xml)[0]);
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
        $bai = new Bai2Reader();
        yield 'a control total' => [
            $bai,
            str_replace('150000,0', '150001,0', self::BAI2),
            'says a control total of 13000.00',
        ];
        yield 'balances that do not follow' => [
            $bai,
            str_replace(['015,476130', '49,1300000,7'], ['015,476131', '49,1300001,7'], self::BAI2),
            '0.01 USD are missing',
        ];
        yield 'cut off' => [$bai, substr(self::BAI2, 0, -20), 'it is cut off'];
        yield 'an unknown type' => [$bai, str_replace('16,475', '16,975', self::BAI2), 'neither credit nor debit'];
        yield 'an amount with a point' => [$bai, str_replace('93870', '938.70', self::BAI2), 'for an amount in USD'];
        yield 'no record' => [$bai, str_replace('16,175', 'x6,175', self::BAI2), 'Line 4 of the file is no record'];
        $ofx = new OfxReader();
        yield 'an OFX that is cut off' => [$ofx, str_replace('</OFX>', '', self::OFX), 'it is cut off'];
        yield 'an OFX amount' => [
            $ofx,
            str_replace('-200.00', 'two', self::OFX),
            'Transaction 1 has “two” for an amount',
        ];
        yield 'an OFX day' => [$ofx, str_replace('20260604', '20261304', self::OFX), 'Transaction 1 has no day'];
        yield 'an OFX without balance' => [$ofx, str_replace('BALAMT', 'OTHER', self::OFX), 'The ledger balance'];
        yield 'a document type in OFX' => [$ofx, '<!DOCTYPE OFX>'.self::OFX, 'declares a document type'];
        yield 'what ends and did not begin' => [
            $ofx,
            str_replace('<BANKTRANLIST>', '', self::OFX),
            'which did not begin',
        ];
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

    /** @return list<array{StatementReader, string}> */
    private static function all(): array
    {
        return [
            [new Mt940Reader(), self::MT940],
            [new Camt053Reader(), self::camt()],
            [new Bai2Reader(), self::BAI2],
            [new OfxReader(), self::OFX],
        ];
    }

    public function testEachKnowsItsOwn(): void
    {
        foreach (self::all() as $k => [$reader, $own]) {
            self::assertTrue($reader->knows($own));
            foreach (self::all() as $n => [, $other]) {
                self::assertSame($k === $n, $reader->knows($other));
            }
        }
    }

    /** A byte lost, doubled or changed: the file is refused, or what is read adds up. */
    public function testDamagedFilesAreRefusedOrTakenWhole(): void
    {
        mt_srand(20260615);
        $csv = new CsvStatementReader(new CsvMapping(StatementWriterTest::CSV_COLUMNS), 'EUR');
        foreach ([...self::all(), [$csv, StatementWriterTest::csv()]] as [$reader, $whole]) {
            $taken = 0;
            for ($n = 0; $n < 2_000; ++$n) {
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
        $this->expectExceptionMessage(Money::of(7_050, 'EUR')->decimal().' EUR are missing');
        $off->check();
    }
}
