<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** Texts, numbers and amounts out of a document that SafeXml has read, by path; what is no number is refused. */
final readonly class XmlValues
{
    public function __construct(private \DOMXPath $xpath, private Currency $currency)
    {
    }

    /** @param array<string, string> $namespaces by prefix */
    public static function path(\DOMDocument $document, array $namespaces): \DOMXPath
    {
        $xpath = new \DOMXPath($document);
        foreach ($namespaces as $prefix => $uri) {
            $xpath->registerNamespace($prefix, $uri);
        }

        return $xpath;
    }

    /** @return list<\DOMElement> */
    public function nodes(string $path, \DOMElement $from): array
    {
        $found = [];
        foreach ($this->xpath->query($path, $from) ?: [] as $node) {
            if ($node instanceof \DOMElement) {
                $found[] = $node;
            }
        }

        return $found;
    }

    /** Of the first that the path finds, at most 255 characters; empty when it finds none. */
    public function text(string $path, \DOMElement $from): string
    {
        return mb_substr(trim((string) $this->xpath->evaluate('string('.$path.')', $from)), 0, 255);
    }

    /**
     * @param string $word what is missing else, in words
     *
     * @throws Refused
     */
    public function needed(string $path, \DOMElement $from, string $word, string $document = 'invoice'): string
    {
        $text = $this->text($path, $from);

        return '' !== $text ? $text : throw Refused::because('file', \sprintf('The %s has no %s.', $document, $word));
    }

    /** @throws Refused when it is no number */
    public function decimal(string $path, \DOMElement $from): ?BigDecimal
    {
        $text = $this->text($path, $from);
        if ('' === $text) {
            return null;
        }
        try {
            return 1 === preg_match('/\A-?\d{1,15}(\.\d{1,10})?\z/', $text)
                ? BigDecimal::of($text)
                : throw Refused::because('file', \sprintf('“%s” is not a number.', mb_strimwidth($text, 0, 30, '…')));
        } catch (MathException) {
            throw Refused::because('file', \sprintf('“%s” is not a number.', mb_strimwidth($text, 0, 30, '…')));
        }
    }

    /**
     * @return int minor units; zeros beyond the currency's digits are no decimals
     *
     * @throws Refused when it is missing or no amount
     */
    public function amount(string $path, \DOMElement $from): int
    {
        $text = $this->text($path, $from);
        if (1 === preg_match('/\A(-?\d+)\.(\d*?)0*\z/', $text, $m) && \strlen($m[2]) <= $this->currency->digits) {
            $text = '' === $m[2] ? $m[1] : $m[1].'.'.$m[2];
        }

        return '' === $text
            ? throw Refused::because(
                'file',
                \sprintf('The invoice lacks an amount (%s).', preg_replace('/[a-z]+:/', '', $path)),
            )
            : Money::parse($text, $this->currency, 'file')->minor;
    }

    /** The amount, or zero when it is not there. */
    public function amountOrNone(string $path, \DOMElement $from): int
    {
        return '' === $this->text($path, $from) ? 0 : $this->amount($path, $from);
    }

    /**
     * What is embedded in base 64, with the name and the kind that its attributes give.
     *
     * @return list<array{name: string, mediaType: string, content: string}>
     */
    public function embedded(string $path, \DOMElement $from): array
    {
        $found = [];
        foreach ($this->nodes($path, $from) as $node) {
            $content = base64_decode((string) preg_replace('/\s+/', '', $node->textContent), true);
            if (false !== $content && '' !== $content) {
                $found[] = [
                    'name' => $node->getAttribute('filename') ?: 'attachment',
                    'mediaType' => $node->getAttribute('mimeCode'),
                    'content' => $content,
                ];
            }
        }

        return $found;
    }
}
