<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;

/** Writes Open Financial Exchange 2.2 as XML. It has no opening balance. Source: OFX Banking Specification 2.3, chapter 11. */
final class OfxWriter implements StatementWriter
{
    public function write(BankStatement $statement): string
    {
        $xml = new \XMLWriter();
        $xml->openMemory();
        $xml->setIndent(true);
        $xml->writeRaw("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
        $xml->writeRaw(
            "<?OFX OFXHEADER=\"200\" VERSION=\"220\" SECURITY=\"NONE\" OLDFILEUID=\"NONE\" NEWFILEUID=\"NONE\"?>\n",
        );
        $xml->startElement('OFX');
        $xml->startElement('BANKMSGSRSV1');
        $xml->startElement('STMTTRNRS');
        $xml->writeElement('TRNUID', '0');
        $xml->startElement('STMTRS');
        $xml->writeElement('CURDEF', $statement->currency);
        $xml->startElement('BANKACCTFROM');
        $xml->writeElement('ACCTID', $statement->account);
        $xml->writeElement('ACCTTYPE', 'CHECKING');
        $xml->endElement();
        $xml->startElement('BANKTRANLIST');
        $xml->writeElement('DTSTART', self::day($statement->from));
        $xml->writeElement('DTEND', self::day($statement->to));
        foreach ($statement->lines as $n => $line) {
            $this->transaction($xml, $line, $statement->currency, $statement->to->iso().'-'.($n + 1));
        }
        $xml->endElement();
        $xml->startElement('LEDGERBAL');
        $xml->writeElement('BALAMT', Money::of($statement->closing, $statement->currency)->decimal());
        $xml->writeElement('DTASOF', self::day($statement->to));
        $xml->endElement();
        foreach (range(1, 4) as $_) {
            $xml->endElement();
        }

        return $xml->outputMemory();
    }

    private function transaction(\XMLWriter $xml, StatementLine $line, string $currency, string $id): void
    {
        $xml->startElement('STMTTRN');
        $xml->writeElement('TRNTYPE', '' !== $line->check ? 'CHECK' : ($line->amount > 0 ? 'CREDIT' : 'DEBIT'));
        $xml->writeElement('DTPOSTED', self::day($line->day));
        if (null !== $line->value) {
            $xml->writeElement('DTAVAIL', self::day($line->value));
        }
        $xml->writeElement('TRNAMT', Money::of($line->amount, $currency)->decimal());
        $xml->writeElement('FITID', '' === $line->bankReference ? $id : $line->bankReference);
        foreach (
            ['CHECKNUM' => $line->check, 'REFNUM' => $line->reference, 'NAME' => $line->party, 'MEMO' => $line->text] as $tag => $text
        ) {
            if ('' !== $text) {
                $xml->writeElement($tag, $text);
            }
        }
        $xml->endElement();
    }

    private static function day(Day $day): string
    {
        return str_replace('-', '', $day->iso());
    }
}
