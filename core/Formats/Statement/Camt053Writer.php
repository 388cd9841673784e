<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Iban;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** Writes ISO 20022 camt.053.001.08, bank to customer statement. */
final class Camt053Writer implements StatementWriter
{
    private const SPACE = 'urn:iso:std:iso:20022:tech:xsd:camt.053.001.08';

    public function write(BankStatement $statement): string
    {
        $xml = new \XMLWriter();
        $xml->openMemory();
        $xml->setIndent(true);
        $xml->startDocument('1.0', 'UTF-8');
        $xml->startElementNs(null, 'Document', self::SPACE);
        $xml->startElement('BkToCstmrStmt');
        $xml->startElement('GrpHdr');
        $xml->writeElement('MsgId', self::id($statement));
        $xml->writeElement('CreDtTm', $statement->to->iso().'T23:59:00');
        $xml->endElement();
        $xml->startElement('Stmt');
        $xml->writeElement('Id', self::id($statement));
        $xml->writeElement('CreDtTm', $statement->to->iso().'T23:59:00');
        $xml->startElement('FrToDt');
        $xml->writeElement('FrDtTm', $statement->from->iso().'T00:00:00');
        $xml->writeElement('ToDtTm', $statement->to->iso().'T23:59:59');
        $xml->endElement();
        $xml->startElement('Acct');
        self::account($xml, 'Id', $statement->account);
        $xml->writeElement('Ccy', $statement->currency);
        $xml->endElement();
        $this->balance($xml, 'OPBD', $statement->opening, $statement->from, $statement->currency);
        $this->balance($xml, 'CLBD', $statement->closing, $statement->to, $statement->currency);
        foreach ($statement->lines as $line) {
            $this->entry($xml, $line, $statement->currency);
        }
        $xml->endElement();
        $xml->endElement();
        $xml->endElement();

        return $xml->outputMemory();
    }

    private static function id(BankStatement $statement): string
    {
        return mb_substr((string) preg_replace('/[^A-Za-z0-9-]/', '-', $statement->number), 0, 35);
    }

    private static function account(\XMLWriter $xml, string $element, string $account): void
    {
        $xml->startElement($element);
        if (self::isIban($account)) {
            $xml->writeElement('IBAN', $account);
        } else {
            $xml->startElement('Othr');
            $xml->writeElement('Id', '' === $account ? 'NOTPROVIDED' : mb_substr($account, 0, 34));
            $xml->endElement();
        }
        $xml->endElement();
    }

    private static function isIban(string $account): bool
    {
        try {
            return '' !== Iban::read($account);
        } catch (Refused) {
            return false;
        }
    }

    private static function amount(\XMLWriter $xml, int $minor, string $currency): void
    {
        $xml->startElement('Amt');
        $xml->writeAttribute('Ccy', $currency);
        $xml->text(Money::of(abs($minor), $currency)->decimal());
        $xml->endElement();
        $xml->writeElement('CdtDbtInd', $minor < 0 ? 'DBIT' : 'CRDT');
    }

    private function balance(\XMLWriter $xml, string $type, int $minor, Day $day, string $currency): void
    {
        $xml->startElement('Bal');
        $xml->startElement('Tp');
        $xml->startElement('CdOrPrtry');
        $xml->writeElement('Cd', $type);
        $xml->endElement();
        $xml->endElement();
        self::amount($xml, $minor, $currency);
        self::day($xml, 'Dt', $day);
        $xml->endElement();
    }

    private static function day(\XMLWriter $xml, string $element, Day $day): void
    {
        $xml->startElement($element);
        $xml->writeElement('Dt', $day->iso());
        $xml->endElement();
    }

    private function entry(\XMLWriter $xml, StatementLine $line, string $currency): void
    {
        $xml->startElement('Ntry');
        self::amount($xml, $line->amount, $currency);
        if ($line->reversal) {
            $xml->writeElement('RvslInd', 'true');
        }
        $xml->startElement('Sts');
        $xml->writeElement('Cd', 'BOOK');
        $xml->endElement();
        self::day($xml, 'BookgDt', $line->day);
        if (null !== $line->value) {
            self::day($xml, 'ValDt', $line->value);
        }
        self::maybe($xml, 'AcctSvcrRef', mb_substr($line->bankReference, 0, 35));
        $xml->startElement('BkTxCd');
        $xml->startElement('Prtry');
        $xml->writeElement('Cd', '' === $line->check ? 'TRF' : 'CHK');
        $xml->endElement();
        $xml->endElement();
        $xml->startElement('NtryDtls');
        $xml->startElement('TxDtls');
        $this->details($xml, $line);
        $xml->endElement();
        $xml->endElement();
        $xml->endElement();
    }

    private function details(\XMLWriter $xml, StatementLine $line): void
    {
        $structured = str_starts_with($line->reference, 'RF');
        $xml->startElement('Refs');
        $xml->writeElement(
            'EndToEndId',
            $structured || '' === $line->reference ? 'NOTPROVIDED' : mb_substr($line->reference, 0, 35),
        );
        self::maybe($xml, 'ChqNb', $line->check);
        $xml->endElement();
        $side = $line->amount > 0 ? 'Dbtr' : 'Cdtr';
        if ('' !== $line->party || '' !== $line->account) {
            $xml->startElement('RltdPties');
            if ('' !== $line->party) {
                $xml->startElement($side);
                $xml->startElement('Pty');
                $xml->writeElement('Nm', mb_substr($line->party, 0, 140));
                $xml->endElement();
                $xml->endElement();
            }
            if ('' !== $line->account) {
                $xml->startElement($side.'Acct');
                self::account($xml, 'Id', $line->account);
                $xml->endElement();
            }
            $xml->endElement();
        }
        if ('' !== $line->text || $structured) {
            $xml->startElement('RmtInf');
            foreach ('' === $line->text ? [] : mb_str_split($line->text, 140) as $part) {
                $xml->writeElement('Ustrd', $part);
            }
            if ($structured) {
                $xml->startElement('Strd');
                $xml->startElement('CdtrRefInf');
                $xml->writeElement('Ref', $line->reference);
                $xml->endElement();
                $xml->endElement();
            }
            $xml->endElement();
        }
    }

    private static function maybe(\XMLWriter $xml, string $element, string $text): void
    {
        if ('' !== $text) {
            $xml->writeElement($element, $text);
        }
    }
}
