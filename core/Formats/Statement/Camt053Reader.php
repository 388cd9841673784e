<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\SafeXml;
use Nelbix\Core\Formats\XmlValues;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;

/**
 * Reads ISO 20022 camt.053.001.02 and .08, the bank-to-customer statement. Only what is booked counts. An entry of several payments becomes
 * a line for each when their amounts add up to it. Source: ISO 20022, message definitions of both versions.
 */
final class Camt053Reader implements StatementReader
{
    private const SPACE = 'urn:iso:std:iso:20022:tech:xsd:camt.053.001.';
    private const VERSIONS = ['02', '08'];
    private const MOST_BYTES = 50_000_000;

    /** Types of balance: opening booked, else the one before closed booked; closing booked. */
    private const OPENING = ['OPBD', 'PRCD'];
    private const CLOSING = ['CLBD'];

    public function knows(string $bytes): bool
    {
        return str_contains(substr($bytes, 0, 2_000), self::SPACE);
    }

    public function read(string $bytes): array
    {
        $document = SafeXml::load($bytes, self::MOST_BYTES, 'a bank statement');
        $space = (string) $document->documentElement?->namespaceURI;
        $version = str_starts_with($space, self::SPACE) ? substr($space, \strlen(self::SPACE)) : '';
        if (!\in_array($version, self::VERSIONS, true)) {
            throw Refused::because(
                'file',
                \sprintf('The file is not a statement in camt.053.001.%s.', implode(' or .', self::VERSIONS)),
            );
        }
        $xpath = XmlValues::path($document, ['c' => $space]);
        $statements = [];
        foreach ($xpath->query('/c:Document/c:BkToCstmrStmt/c:Stmt') ?: [] as $node) {
            if ($node instanceof \DOMElement) {
                $statements[] = $this->statement($xpath, $node);
            }
        }

        return [] === $statements ? throw Refused::because('file', 'The file holds no statement.') : $statements;
    }

    private function statement(\DOMXPath $xpath, \DOMElement $node): BankStatement
    {
        $currency = Currency::of(
            trim((string) $xpath->evaluate('string(c:Acct/c:Ccy)', $node)) ?:
            trim((string) $xpath->evaluate('string((c:Bal/c:Amt/@Ccy)[1])', $node)),
        );
        $xml = new XmlValues($xpath, $currency);
        $opening = $this->balance($xml, $node, self::OPENING, 'opening');
        $closing = $this->balance($xml, $node, self::CLOSING, 'closing');
        $lines = [];
        foreach ($xml->nodes('c:Ntry', $node) as $n => $entry) {
            $status = $xml->text('c:Sts/c:Cd', $entry) ?: $xml->text('c:Sts', $entry);
            if ('BOOK' === $status || '' === $status) {
                array_push($lines, ...$this->entry($xml, $entry, $currency, $n + 1));
            }
        }
        $days = [$opening['day'], $closing['day'], ...array_map(static fn (StatementLine $l): Day => $l->day, $lines)];
        $from = $xml->text('c:FrToDt/c:FrDtTm', $node);

        return (new BankStatement(
            $xml->needed('c:Id', $node, 'number', 'statement'),
            $xml->text('c:Acct/c:Id/c:IBAN', $node) ?: $xml->text('c:Acct/c:Id/c:Othr/c:Id', $node),
            $currency->code,
            '' === $from ? $opening['day'] : Day::of(substr($from, 0, 10), 'file'),
            Day::latest(...$days),
            $opening['amount'],
            $closing['amount'],
            $lines,
        ))->check();
    }

    /**
     * @param non-empty-list<string> $types the likelier first
     *
     * @return array{amount: int, day: Day}
     */
    private function balance(XmlValues $xml, \DOMElement $node, array $types, string $word): array
    {
        foreach ($types as $type) {
            foreach ($xml->nodes("c:Bal[c:Tp/c:CdOrPrtry/c:Cd = '$type']", $node) as $balance) {
                return [
                    'amount' => self::sign($xml, $balance) * $xml->amount('c:Amt', $balance),
                    'day' => self::day($xml, 'c:Dt', $balance) ??
                        throw Refused::because('file', \sprintf('The %s balance has no day.', $word)),
                ];
            }
        }
        throw Refused::because('file', \sprintf('The statement has no %s balance.', $word));
    }

    /** @return non-empty-list<StatementLine> */
    private function entry(XmlValues $xml, \DOMElement $entry, Currency $currency, int $n): array
    {
        $other = $xml->text('c:Amt/@Ccy', $entry);
        if ($other !== $currency->code) {
            throw Refused::because(
                'file',
                \sprintf(
                    'Entry %d is in %s, its statement in %s.',
                    $n,
                    '' === $other ? 'no currency' : $other,
                    $currency->code,
                ),
            );
        }
        $sign = self::sign($xml, $entry);
        $amount = $sign * $xml->amount('c:Amt', $entry);
        $details = $xml->nodes('c:NtryDtls/c:TxDtls', $entry);
        $parts = array_map(fn (\DOMElement $d): ?int => $this->part($xml, $d, $currency, $sign), $details);
        $each = \count($details) > 1 && !\in_array(null, $parts, true) && array_sum($parts) === $amount;
        $lines = [];
        foreach ($each ? $details : [$details[0] ?? null] as $k => $detail) {
            $lines[] = $this->line($xml, $entry, $detail, $each ? (int) $parts[$k] : $amount, $amount > 0, $n);
        }

        return $lines;
    }

    private function line(
        XmlValues $xml,
        \DOMElement $entry,
        ?\DOMElement $detail,
        int $amount,
        bool $credit,
        int $n,
    ): StatementLine {
        $of = static fn (string $path): string => null === $detail ? '' : $xml->text($path, $detail);
        // the other side pays what comes in, and is paid what goes out
        $side = $credit ? 'Dbtr' : 'Cdtr';
        $end = $of('c:Refs/c:EndToEndId');
        $texts =
            null === $detail
                ? []
                : array_map(
                    static fn (\DOMElement $e): string => trim($e->textContent),
                    $xml->nodes('c:RmtInf/c:Ustrd', $detail),
                );
        $text = trim(implode(' ', $texts));

        return new StatementLine(
            self::day($xml, 'c:BookgDt', $entry) ??
                throw Refused::because('file', \sprintf('Entry %d has no booking day.', $n)),
            self::day($xml, 'c:ValDt', $entry),
            $amount,
            mb_substr('' === $text ? ($of('c:AddtlTxInf') ?: $xml->text('c:AddtlNtryInf', $entry)) : $text, 0, 500),
            $of('c:RmtInf/c:Strd/c:CdtrRefInf/c:Ref') ?: ('NOTPROVIDED' === $end ? '' : $end),
            $of('c:Refs/c:AcctSvcrRef') ?: $xml->text('c:AcctSvcrRef', $entry),
            $of("c:RltdPties/c:$side/c:Pty/c:Nm") ?: $of("c:RltdPties/c:$side/c:Nm"),
            $of("c:RltdPties/c:{$side}Acct/c:Id/c:IBAN") ?: $of("c:RltdPties/c:{$side}Acct/c:Id/c:Othr/c:Id"),
            $of('c:Refs/c:ChqNb'),
            'true' === $xml->text('c:RvslInd', $entry),
        );
    }

    /** The amount of one payment of an entry in the account's currency; null when it is not said. */
    private function part(XmlValues $xml, \DOMElement $detail, Currency $currency, int $sign): ?int
    {
        foreach (['c:Amt', 'c:AmtDtls/c:TxAmt/c:Amt', 'c:AmtDtls/c:InstdAmt/c:Amt'] as $path) {
            if ($xml->text("$path/@Ccy", $detail) === $currency->code) {
                $own = $xml->text('c:CdtDbtInd', $detail);

                return ('' === $own ? $sign : self::sign($xml, $detail)) * $xml->amount($path, $detail);
            }
        }

        return null;
    }

    /** @throws Refused when it says neither credit nor debit */
    private static function sign(XmlValues $xml, \DOMElement $node): int
    {
        return match ($xml->text('c:CdtDbtInd', $node)) {
            'CRDT' => 1,
            'DBIT' => -1,
            default => throw Refused::because('file', 'An amount says neither CRDT nor DBIT.'),
        };
    }

    private static function day(XmlValues $xml, string $path, \DOMElement $node): ?Day
    {
        $text = $xml->text("$path/c:Dt", $node) ?: substr($xml->text("$path/c:DtTm", $node), 0, 10);

        return '' === $text ? null : Day::of($text, 'file');
    }
}
