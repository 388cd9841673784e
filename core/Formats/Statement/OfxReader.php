<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * Reads Open Financial Exchange, both as SGML (1.x, whose elements need no end) and as XML (2.x). It says no opening balance: that is the
 * closing one less the lines. Source: OFX Banking Specification 2.3, chapter 11, and 1.6 for SGML.
 *
 * @phpstan-type Values array<string, string>
 */
final class OfxReader implements StatementReader
{
    private const MOST_BYTES = 20_000_000;
    private const MOST_LINES = 100_000;

    /** Aggregates whose elements are kept apart; every other tag with a value is an element of the one that is open. */
    private const KEPT = [
        'STMTRS',
        'CCSTMTRS',
        'BANKACCTFROM',
        'CCACCTFROM',
        'BANKTRANLIST',
        'STMTTRN',
        'LEDGERBAL',
        'AVAILBAL',
        'BANKACCTTO',
    ];

    private const STATEMENTS = ['STMTRS', 'CCSTMTRS'];

    public function knows(string $bytes): bool
    {
        return 1 ===
            preg_match('/\A\s*(?:\xEF\xBB\xBF)?(?:OFXHEADER:|<\?xml[^>]*\?>\s*<\?OFX|<\?OFX)/', substr($bytes, 0, 500));
    }

    public function read(string $bytes): array
    {
        if (\strlen($bytes) > self::MOST_BYTES) {
            throw Refused::because('file', 'The file is too big; at most 20 MB of statements are read.');
        }
        if (str_contains($bytes, '<!')) {
            throw Refused::because(
                'file',
                'The file declares a document type, which a statement does not need; it is not read.',
            );
        }
        $at = strpos($bytes, '<OFX>');
        if (false === $at || !str_contains($bytes, '</OFX>')) {
            throw Refused::because(
                'file',
                false === $at ? 'The file is not an OFX file.' : 'The file does not end with </OFX>; it is cut off.',
            );
        }
        $text = substr($bytes, $at);
        $text = mb_check_encoding($text, 'UTF-8') ? $text : mb_convert_encoding($text, 'UTF-8', 'Windows-1252');
        $statements = [];
        foreach ($this->aggregates((string) $text) as $found) {
            $statements[] = $this->statement($found);
        }

        return [] === $statements ? throw Refused::because('file', 'The file holds no statement.') : $statements;
    }

    /**
     * @return list<array{of: Values, account: Values, balance: Values, span: Values, lines: list<Values>}>
     *
     * @throws Refused when an aggregate ends that did not begin, or does not end
     */
    private function aggregates(string $text): array
    {
        $found = $open = [];
        $values = [];
        preg_match_all('/<(\/?)([A-Z0-9.]+)>([^<]*)/', $text, $tokens, \PREG_SET_ORDER | \PREG_OFFSET_CAPTURE);
        foreach ($tokens as [, [$end], [$tag, $at], [$value]]) {
            $kept = \in_array($tag, self::KEPT, true);
            if ($kept && '' === $end) {
                $open[] = $tag;
                $values[] = [];
            } elseif ($kept) {
                if ($tag !== ($open[\count($open) - 1] ?? '')) {
                    throw Refused::because(
                        'file',
                        \sprintf(
                            'Line %d of the file ends %s, which did not begin.',
                            1 + substr_count($text, "\n", 0, $at),
                            $tag,
                        ),
                    );
                }
                array_pop($open);
                $this->keep($found, $tag, array_pop($values) ?? []);
            } elseif ('' === $end && [] !== $open) {
                $last = array_pop($values) ?? [];
                $values[] = $last + [$tag => trim(html_entity_decode($value, \ENT_QUOTES | \ENT_XML1, 'UTF-8'))];
            }
        }
        if ([] !== $open) {
            throw Refused::because(
                'file',
                \sprintf('The file begins %s and does not end it; it is cut off.', $open[0]),
            );
        }

        return array_values(array_filter($found, static fn (array $f): bool => [] !== $f['of']));
    }

    /**
     * Aggregates end from the inside out: what belongs to a statement is gathered until the statement itself ends.
     *
     * @param list<array{of: Values, account: Values, balance: Values, span: Values, lines: list<Values>}> $found
     * @param Values $values
     */
    private function keep(array &$found, string $tag, array $values): void
    {
        $last = $found[\count($found) - 1] ?? null;
        if (null === $last || [] !== $last['of']) {
            $last = ['of' => [], 'account' => [], 'balance' => [], 'span' => [], 'lines' => []];
        } else {
            array_pop($found);
        }
        if (\in_array($tag, self::STATEMENTS, true)) {
            $last['of'] = $values + ['CURDEF' => ''];
        } elseif ('STMTTRN' === $tag) {
            $last['lines'][] = $values;
            if (\count($last['lines']) > self::MOST_LINES) {
                throw Refused::because('file', \sprintf('A statement has at most %d lines here.', self::MOST_LINES));
            }
        } else {
            $place = [
                'BANKACCTFROM' => 'account',
                'CCACCTFROM' => 'account',
                'LEDGERBAL' => 'balance',
                'BANKTRANLIST' => 'span',
            ];
            if (isset($place[$tag])) {
                $last[$place[$tag]] = $values;
            }
        }
        $found[] = $last;
    }

    /** @param array{of: Values, account: Values, balance: Values, span: Values, lines: list<Values>} $found */
    private function statement(array $found): BankStatement
    {
        $currency = Currency::of($found['of']['CURDEF']);
        $lines = [];
        foreach ($found['lines'] as $n => $line) {
            $lines[] = self::line($line, $currency, $n + 1);
        }
        $closing = self::amount($found['balance']['BALAMT'] ?? '', $currency, 'The ledger balance');
        $sum = array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $lines));
        $to = self::day($found['span']['DTEND'] ?? ($found['balance']['DTASOF'] ?? ''), 'The end of the statement');
        $from = self::day($found['span']['DTSTART'] ?? '', 'The beginning of the statement');

        return new BankStatement(
            $to->iso(),
            trim(($found['account']['BANKID'] ?? '').' '.($found['account']['ACCTID'] ?? '')),
            $currency->code,
            $from,
            $to,
            $closing - $sum,
            $closing,
            $lines,
        );
    }

    /** @param Values $line */
    private static function line(array $line, Currency $currency, int $n): StatementLine
    {
        $where = \sprintf('Transaction %d', $n);
        $text = trim($line['MEMO'] ?? '' ?: $line['NAME'] ?? '');

        return new StatementLine(
            self::day($line['DTPOSTED'] ?? '', $where),
            '' === ($line['DTAVAIL'] ?? '') ? null : self::day($line['DTAVAIL'], $where),
            self::amount($line['TRNAMT'] ?? '', $currency, $where),
            mb_substr($text, 0, 500),
            $line['REFNUM'] ?? '',
            $line['FITID'] ?? '',
            $line['NAME'] ?? '',
            check: 1 === preg_match('/\A\d+\z/', $line['CHECKNUM'] ?? '') ? ltrim($line['CHECKNUM'], '0') : '',
        );
    }

    /** Days stand as 20260615, with a time and a zone behind them or not: 20260615120000[-5:EST]. */
    private static function day(string $typed, string $where): Day
    {
        try {
            return 1 === preg_match('/\A(\d{4})(\d{2})(\d{2})(?:\d{4,6}(?:\.\d{1,3})?)?(?:\[[^\]]*\])?\z/', $typed, $m)
                ? Day::of("$m[1]-$m[2]-$m[3]", 'file')
                : throw Refused::because('file', '');
        } catch (Refused) {
            throw Refused::because(
                'file',
                \sprintf('%s has no day such as 20260615, but “%s”.', $where, mb_strimwidth($typed, 0, 30, '…')),
            );
        }
    }

    private static function amount(string $typed, Currency $currency, string $where): int
    {
        // the sign may be said, and the comma may be a point
        $plain = str_replace(',', '.', ltrim($typed, '+'));
        if (1 === preg_match('/\A(-?\d+)\.(\d*?)0*\z/', $plain, $m)) {
            $plain = '' === $m[2] ? $m[1] : $m[1].'.'.$m[2];
        }
        try {
            return Money::parse($plain, $currency, 'file')->minor;
        } catch (Refused) {
            throw Refused::because(
                'file',
                \sprintf(
                    '%s has “%s” for an amount in %s.',
                    $where,
                    mb_strimwidth($typed, 0, 20, '…'),
                    $currency->code,
                ),
            );
        }
    }
}
