<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Symfony\Component\Process\Process;

/** Electronic invoices as a library that is not ours writes them, which checks them against the schema. */
trait OtherLibrary
{
    /** @param array<string, mixed> $json */
    private static function library(array $json, string $syntax = 'UBL'): string
    {
        $process = new Process(
            ['node', __DIR__.'/ubl.cjs', $syntax],
            \dirname(__DIR__, 2),
            null,
            json_encode($json, \JSON_THROW_ON_ERROR),
        );
        $process->run();
        self::assertSame(0, $process->getExitCode(), $process->getErrorOutput());

        return $process->getOutput();
    }

    /**
     * @param array<string, string> $money
     *
     * @return array<string, string>
     */
    private static function usd(array $money): array
    {
        $with = [];
        foreach ($money as $name => $amount) {
            $with += ['cbc:'.$name => $amount, 'cbc:'.$name.'@currencyID' => 'USD'];
        }

        return $with;
    }

    /** @return array<string, mixed> */
    private static function theirs(string $taxNumber): array
    {
        $scheme = ['cac:TaxScheme' => ['cbc:ID' => 'VAT']];
        $eight = ['cbc:ID' => 'S', 'cbc:Percent' => '8', ...$scheme];
        $party = static fn (string $name, string $country): array => [
            'cbc:EndpointID' => 'a@b.example',
            'cbc:EndpointID@schemeID' => 'EM',
            'cac:PostalAddress' => [
                'cbc:CityName' => 'Alder Point',
                'cac:Country' => ['cbc:IdentificationCode' => $country],
            ],
            'cac:PartyLegalEntity' => ['cbc:RegistrationName' => $name],
        ];

        return [
            'ubl:Invoice' => [
                'cbc:CustomizationID' => 'urn:cen.eu:en16931:2017',
                'cbc:ID' => 'LS-77',
                'cbc:IssueDate' => '2026-06-10',
                'cbc:DueDate' => '2026-07-15',
                'cbc:InvoiceTypeCode' => '380',
                'cbc:Note' => ['for the slip'],
                'cbc:DocumentCurrencyCode' => 'USD',
                'cbc:BuyerReference' => 'YARD',
                'cac:AccountingSupplierParty' => [
                    'cac:Party' => [
                        ...$party('Fenwick', 'US'),
                        'cac:PartyTaxScheme' => [['cbc:CompanyID' => $taxNumber, ...$scheme]],
                    ],
                ],
                'cac:AccountingCustomerParty' => ['cac:Party' => $party('Tamarack', 'US')],
                'cac:AllowanceCharge' => [
                    [
                        'cbc:ChargeIndicator' => 'false',
                        'cbc:AllowanceChargeReason' => 'Trade discount',
                        ...self::usd(['Amount' => '10.00']),
                        'cac:TaxCategory' => $eight,
                    ],
                ],
                'cac:TaxTotal' => [
                    [
                        ...self::usd(['TaxAmount' => '61.76']),
                        'cac:TaxSubtotal' => [
                            [
                                ...self::usd(['TaxableAmount' => '772.00', 'TaxAmount' => '61.76']),
                                'cac:TaxCategory' => $eight,
                            ],
                        ],
                    ],
                ],
                'cac:LegalMonetaryTotal' => self::usd([
                    'LineExtensionAmount' => '782.00',
                    'TaxExclusiveAmount' => '772.00',
                    'TaxInclusiveAmount' => '833.76',
                    'AllowanceTotalAmount' => '10.00',
                    'PayableAmount' => '833.76',
                ]),
                'cac:InvoiceLine' => [
                    [
                        'cbc:ID' => '1',
                        'cbc:InvoicedQuantity' => '42.5',
                        'cbc:InvoicedQuantity@unitCode' => 'C62',
                        ...self::usd(['LineExtensionAmount' => '782.00']),
                        'cac:Item' => ['cbc:Name' => 'White oak', 'cac:ClassifiedTaxCategory' => $eight],
                        'cac:Price' => self::usd(['PriceAmount' => '18.40']),
                    ],
                ],
            ],
        ];
    }
}
