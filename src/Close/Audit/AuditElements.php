<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Audit;

use Nelbix\Core\Money\Money;

/** The elements of an audit file on their way out: what is written is handed on in parts, so that the file never stands in memory. */
final class AuditElements
{
    /** elements closed with close() before what stands in memory is handed on */
    private const FLUSH = 200;

    private readonly \XMLWriter $xml;
    private int $closed = 0;

    /** @param \Closure(string): void $out takes the file part by part */
    public function __construct(string $space, private readonly string $base, private readonly \Closure $out)
    {
        $this->xml = new \XMLWriter();
        $this->xml->openMemory();
        $this->xml->setIndent(true);
        $this->xml->startDocument('1.0', 'UTF-8');
        $this->xml->startElementNs(null, 'AuditFile', $space);
    }

    public function finish(): void
    {
        $this->xml->endElement();
        $this->xml->endDocument();
        ($this->out)($this->xml->outputMemory());
    }

    public function open(string $name): void
    {
        $this->xml->startElement($name);
    }

    /** Ends the element that was opened last. */
    public function end(): void
    {
        $this->xml->endElement();
    }

    /** Ends an element of which there may be very many, and hands on what is written. */
    public function close(): void
    {
        $this->xml->endElement();
        if (0 === ++$this->closed % self::FLUSH) {
            ($this->out)($this->xml->outputMemory());
        }
    }

    /** Nothing is written of an empty text; what XML cannot hold at all is left out. */
    public function say(string $name, string $text): void
    {
        if ('' !== $text) {
            $this->xml->writeElement(
                $name,
                (string) preg_replace(
                    '/[^\x09\x0A\x0D\x20-\x{D7FF}\x{E000}-\x{FFFD}\x{10000}-\x{10FFFF}]/u',
                    '',
                    $text,
                ),
            );
        }
    }

    /** A line's amount: debit positive, in hundredths of the base currency and of its own. */
    public function amount(int $base, int $amount, string $currency): void
    {
        $this->open($base < 0 || (0 === $base && $amount < 0) ? 'CreditAmount' : 'DebitAmount');
        $this->say('Amount', $this->money(abs($base)));
        if ($currency !== $this->base) {
            $this->say('CurrencyCode', $currency);
            $this->say('CurrencyAmount', Money::of(abs($amount), $currency)->decimal());
        }
        $this->end();
    }

    /** @param string $name of an element that holds an amount with its currency, in the sign given */
    public function inCurrency(string $name, int $base, int $amount, string $currency): void
    {
        $this->open($name);
        $this->say('Amount', $this->money($base));
        $this->say('CurrencyCode', $currency);
        $this->say('CurrencyAmount', Money::of($amount, $currency)->decimal());
        $this->end();
    }

    public function balance(string $which, int $base): void
    {
        $this->say($which.($base < 0 ? 'CreditBalance' : 'DebitBalance'), $this->money(abs($base)));
    }

    public function money(int $base): string
    {
        return Money::of($base, $this->base)->decimal();
    }
}
