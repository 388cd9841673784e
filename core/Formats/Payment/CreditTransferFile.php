<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * Customer credit transfers, ISO 20022 pain.001.001.09. Source: the published message definition; compared with files of a reference
 * library in the tests.
 */
final class CreditTransferFile implements PaymentFile
{
    private \XMLWriter $xml;

    public function extension(): string
    {
        return 'xml';
    }

    public function write(PaymentOrder $order): string
    {
        if (!$order->from->hasIban() && !$order->from->hasRouting()) {
            throw Refused::because(
                'bank',
                'The bank account has neither IBAN nor routing and account number; enter them under Setup, Bank accounts.',
            );
        }
        $this->xml = new \XMLWriter();
        $this->xml->openMemory();
        $this->xml->setIndent(true);
        $this->xml->startDocument('1.0', 'UTF-8');
        $this->xml->startElementNs(null, 'Document', 'urn:iso:std:iso:20022:tech:xsd:pain.001.001.09');
        $sum = Money::of($order->total(), $order->currency)->decimal();
        $count = (string) \count($order->transfers);
        $this->in('CstmrCdtTrfInitn', function () use ($order, $sum, $count): void {
            $this->in('GrpHdr', function () use ($order, $sum, $count): void {
                $this->put('MsgId', self::id($order->id));
                $this->put('CreDtTm', $order->made->format('Y-m-d\TH:i:s'));
                $this->put('NbOfTxs', $count);
                $this->put('CtrlSum', $sum);
                $this->in('InitgPty', fn () => $this->put('Nm', self::text($order->name, 70)));
            });
            $this->in('PmtInf', function () use ($order, $sum, $count): void {
                $this->put('PmtInfId', self::id($order->id.'-1'));
                $this->put('PmtMtd', 'TRF');
                $this->put('BtchBookg', 'false');
                $this->put('NbOfTxs', $count);
                $this->put('CtrlSum', $sum);
                $this->in('ReqdExctnDt', fn () => $this->put('Dt', $order->payDate->iso()));
                $this->in('Dbtr', fn () => $this->put('Nm', self::text($order->name, 70)));
                $this->account('DbtrAcct', $order->from, $order->currency);
                $this->agent('DbtrAgt', $order->from);
                foreach ($order->transfers as $t) {
                    $this->transfer($t, $order->currency);
                }
            });
        });
        $this->xml->endElement();
        $this->xml->endDocument();

        return $this->xml->outputMemory();
    }

    private function transfer(Transfer $t, string $currency): void
    {
        if ((!$t->to->hasIban() && !$t->to->hasRouting()) || $t->amount <= 0) {
            throw Refused::because(
                'format',
                \sprintf('%s has no bank account to pay to; add it on its page, or pay it another way.', $t->name),
            );
        }
        $this->in('CdtTrfTxInf', function () use ($t, $currency): void {
            $this->in('PmtId', function () use ($t): void {
                $this->put('InstrId', self::id($t->id));
                $this->put('EndToEndId', self::id($t->id));
            });
            $this->in('Amt', function () use ($t, $currency): void {
                $this->xml->startElement('InstdAmt');
                $this->xml->writeAttribute('Ccy', $currency);
                $this->xml->text(Money::of($t->amount, $currency)->decimal());
                $this->xml->endElement();
            });
            $this->agent('CdtrAgt', $t->to);
            $this->in('Cdtr', function () use ($t): void {
                $this->put('Nm', self::text($t->name, 70));
                if (1 === preg_match('/\A[A-Z]{2}\z/', $t->country)) {
                    $this->in('PstlAdr', fn () => $this->put('Ctry', $t->country));
                }
            });
            $this->account('CdtrAcct', $t->to, null);
            $said = self::text(implode(' ', array_column($t->pays, 'number')), 140);
            if ('' !== $said) {
                $this->in('RmtInf', fn () => $this->put('Ustrd', $said));
            }
        });
    }

    private function account(string $name, BankKey $key, ?string $currency): void
    {
        $this->in($name, function () use ($key, $currency): void {
            $this->in('Id', function () use ($key): void {
                if ($key->hasIban()) {
                    $this->put('IBAN', $key->iban);
                } else {
                    $this->in('Othr', fn () => $this->put('Id', $key->account));
                }
            });
            if (null !== $currency) {
                $this->put('Ccy', $currency);
            }
        });
    }

    private function agent(string $name, BankKey $key): void
    {
        $this->in(
            $name,
            fn () => $this->in('FinInstnId', function () use ($key): void {
                if ('' !== $key->bic) {
                    $this->put('BICFI', $key->bic);
                } elseif ('' !== $key->routing) {
                    $this->in('ClrSysMmbId', function () use ($key): void {
                        $this->in('ClrSysId', fn () => $this->put('Cd', 'USABA'));
                        $this->put('MmbId', $key->routing);
                    });
                } else {
                    $this->in('Othr', fn () => $this->put('Id', 'NOTPROVIDED'));
                }
            }),
        );
    }

    private function put(string $name, string $value): void
    {
        $this->xml->writeElement($name, $value);
    }

    private function in(string $name, callable $content): void
    {
        $this->xml->startElement($name);
        $content();
        $this->xml->endElement();
    }

    /** Identifications keep to letters, digits and a few marks, up to 35. */
    private static function id(string $id): string
    {
        return substr((string) preg_replace('/[^A-Za-z0-9+?\/:().,\' -]/', '-', $id), 0, 35);
    }

    private static function text(string $text, int $most): string
    {
        return mb_substr(trim((string) preg_replace('/[^\P{C}]|\s+/u', ' ', mb_scrub($text))), 0, $most);
    }
}
