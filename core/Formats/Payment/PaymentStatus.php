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
     * @param string $group ACCP accepted, PART in part, RJCT rejected
     * @param array<string, array{accepted: bool, reason: string}> $lines by end-to-end identification; those not named follow the group
     */
    public function __construct(
        public string $fileId,
        public string $group,
        public array $lines,
        public string $reason = '',
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
        $e = static fn (string $text): string => htmlspecialchars($text, \ENT_XML1 | \ENT_QUOTES);
        $lines = '';
        foreach ($this->lines as $id => $line) {
            $lines .=
                '<TxInfAndSts><OrgnlEndToEndId>'.
                $e((string) $id).
                '</OrgnlEndToEndId><TxSts>'.
                ($line['accepted'] ? 'ACCP' : 'RJCT').
                '</TxSts>'.
                ($line['accepted']
                    ? ''
                    : '<StsRsnInf><Rsn><Cd>'.
                        $e(strtok($line['reason'].' ', ' ') ?: 'NARR').
                        '</Cd></Rsn><AddtlInf>'.
                        $e(trim(strstr($line['reason'], ' ') ?: '')).
                        '</AddtlInf></StsRsnInf>').
                '</TxInfAndSts>';
        }

        return '<?xml version="1.0" encoding="UTF-8"?>'.
            "\n".
            '<Document xmlns="'.
            self::SPACE.
            '"><CstmrPmtStsRpt><GrpHdr><MsgId>'.
            $e('ANS-'.$this->fileId).
            '</MsgId><CreDtTm>'.
            $made->format('Y-m-d\TH:i:s').
            '</CreDtTm></GrpHdr><OrgnlGrpInfAndSts><OrgnlMsgId>'.
            $e($this->fileId).
            '</OrgnlMsgId><OrgnlMsgNmId>pain.001.001.09</OrgnlMsgNmId><GrpSts>'.
            $e($this->group).
            '</GrpSts>'.
            ('' === $this->reason ? '' : '<StsRsnInf><AddtlInf>'.$e($this->reason).'</AddtlInf></StsRsnInf>').
            '</OrgnlGrpInfAndSts><OrgnlPmtInfAndSts><OrgnlPmtInfId>'.
            $e($this->fileId.'-1').
            '</OrgnlPmtInfId>'.
            $lines.
            '</OrgnlPmtInfAndSts></CstmrPmtStsRpt></Document>';
    }
}
