<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Formats\SafeXml;
use Nelbix\Core\Refused;

/** A bank's answer to a file of payments, ISO 20022 pain.002.001.10: accepted, rejected, or each line by itself. */
final readonly class PaymentStatus
{
    private const SPACE = 'urn:iso:std:iso:20022:tech:xsd:pain.002.001.10';
    private const MOST_BYTES = 5_000_000;

    /**
     * @param string $fileId the file that is answered, our number
     * @param string $message what kind of file is answered
     * @param string $group ACCP accepted, PART in part, RJCT rejected
     * @param array<string, array{accepted: bool, reason: string}> $lines by end-to-end identification; those not named follow the group
     */
    public function __construct(
        public string $fileId,
        public string $group,
        public array $lines,
        public string $reason = '',
        public string $message = 'pain.001.001.09',
    ) {
    }

    /** What became of a line, or null when the answer does not say. */
    public function of(string $endToEnd): ?bool
    {
        return $this->lines[$endToEnd]['accepted'] ??
            match ($this->group) {
                'ACCP', 'ACSC', 'ACTC', 'ACSP' => true,
                'RJCT' => false,
                default => null,
            };
    }

    /** @throws Refused when it is not such an answer, declares a document type or is too large */
    public static function read(string $xml): self
    {
        $document = SafeXml::load($xml, self::MOST_BYTES, 'a payment status report');
        if (
            !str_starts_with(
                (string) $document->documentElement?->namespaceURI,
                'urn:iso:std:iso:20022:tech:xsd:pain.002.001.',
            )
        ) {
            throw Refused::because('file', 'This is no payment status report (pain.002).');
        }
        $path = new \DOMXPath($document);
        $path->registerNamespace('p', (string) $document->documentElement?->namespaceURI);
        $text = static fn (string $query, \DOMNode|\DOMNameSpaceNode|null $in = null): string => trim(
            (string) $path->evaluate('string('.$query.')', $in instanceof \DOMNode ? $in : null),
        );
        $lines = [];
        foreach ($path->query('//p:TxInfAndSts') ?: [] as $node) {
            $lines[$text('p:OrgnlEndToEndId', $node)] = [
                'accepted' => 'RJCT' !== $text('p:TxSts', $node),
                'reason' => trim($text('p:StsRsnInf/p:Rsn/p:Cd', $node).' '.$text('p:StsRsnInf/p:AddtlInf', $node)),
            ];
        }

        return new self(
            $text('//p:OrgnlGrpInfAndSts/p:OrgnlMsgId'),
            $text('//p:OrgnlGrpInfAndSts/p:GrpSts'),
            $lines,
            $text('//p:OrgnlGrpInfAndSts/p:StsRsnInf/p:AddtlInf'),
        );
    }

    /** Written by the bank's stand-in. */
    public function write(\DateTimeImmutable $made): string
    {
        return IsoMessage::write(
            self::SPACE,
            fn (IsoMessage $m) => $m->in('CstmrPmtStsRpt', function () use ($m, $made): void {
                $m->in('GrpHdr', function () use ($m, $made): void {
                    $m->put('MsgId', 'ANS-'.$this->fileId);
                    $m->put('CreDtTm', $made->format('Y-m-d\TH:i:s'));
                });
                $m->in('OrgnlGrpInfAndSts', function () use ($m): void {
                    $m->put('OrgnlMsgId', $this->fileId);
                    $m->put('OrgnlMsgNmId', $this->message);
                    $m->put('GrpSts', $this->group);
                    if ('' !== $this->reason) {
                        $m->in('StsRsnInf', fn () => $m->put('AddtlInf', $this->reason));
                    }
                });
                $m->in('OrgnlPmtInfAndSts', function () use ($m): void {
                    $m->put('OrgnlPmtInfId', $this->fileId.'-1');
                    foreach ($this->lines as $id => $line) {
                        $m->in('TxInfAndSts', static fn () => self::line($m, (string) $id, $line));
                    }
                });
            }),
        );
    }

    /** @param array{accepted: bool, reason: string} $line its reason begins with a code */
    private static function line(IsoMessage $m, string $id, array $line): void
    {
        $m->put('OrgnlEndToEndId', $id);
        $m->put('TxSts', $line['accepted'] ? 'ACCP' : 'RJCT');
        if (!$line['accepted']) {
            [$code, $text] = [...explode(' ', $line['reason'], 2), ''];
            $m->in('StsRsnInf', static function () use ($m, $code, $text): void {
                $m->in('Rsn', static fn () => $m->put('Cd', '' === $code ? 'NARR' : $code));
                $m->put('AddtlInf', trim($text));
            });
        }
    }
}
