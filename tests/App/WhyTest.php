<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Setup\SaveTerm;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DomCrawler\Crawler;

/** Why a figure is what it is. What is said is worked by hand here. */
final class WhyTest extends ScreenCase
{
    /** @return array<string, string> what is said under each figure */
    private function whys(string $path): array
    {
        $said = [];
        $this->page($path)
            ->filter('.whys dt')
            ->each(static function (Crawler $dt) use (&$said): void {
                $said[$dt->text()] = $dt->nextAll()->first()->text();
            });

        return $said;
    }

    public function testAPostedInvoiceSaysItsDatesDiscountTaxBaseAndWhatIsOpen(): void
    {
        $this->db()->executeStatement(
            'INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate) '.
                "VALUES (?, '2026-06-01', 'EUR', 'USD', 1.10)",
            [$this->clerk->companyId],
        );
        $rate = (string) $this->db()->fetchOne("SELECT rate + 0 FROM tax_code WHERE code = 'P8' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        self::assertSame('8', rtrim(rtrim($rate, '0'), '.'), 'the figures below rest on it');
        $id = $this->invoice(Side::Payables, '', [
            'currency' => 'EUR',
            'lines' => [
                ['account' => '5000', 'amount' => '333.33', 'tax_code' => 'P8'],
                ['account' => '5000', 'amount' => '66.66', 'tax_code' => 'P8'],
            ],
        ]);
        $this->as('payables');
        $said = $this->whys('/TEST/payables/why/document/'.$id);
        // 399.99 × 8 % = 31.9992 = 32.00; 431.99 × 2 % = 8.6398 = 8.64; 431.99 × 1.1 = 475.189
        $number = (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE document_id = ?', [$id]);
        self::assertSame(
            [
                'Due 10 Jul 2026',
                'Discount until 20 Jun 2026 8.64',
                'Tax P8 32.00',
                'In USD 475.19',
                "Open, $number 431.99",
            ],
            array_keys($said),
        );
        foreach (
            [
                ['Due 10 Jul 2026', 'document date 10 Jun 2026'],
                ['Due 10 Jul 2026', 'gives 10 Jul 2026'],
                ['Discount until 20 Jun 2026 8.64', '431.99 × 2 % = 8.64'],
                ['Tax P8 32.00', '399.99 × 8 % = 32.00'],
                ['In USD 475.19', 'rate 1.1, of the table from 1 Jun 2026'],
                ["Open, $number 431.99", 'original 431.99'],
            ] as [$figure, $part]
        ) {
            self::assertStringContainsString($part, $said[$figure]);
        }
    }

    public function testWhatWasTypedIsSaidBesideWhatTheTermsGive(): void
    {
        $id = $this->invoice(Side::Receivables, '100.00', ['due_date' => '2026-08-01']);
        $item = $this->itemOf($id);
        $paid = $this->money(Side::Receivables, 4000, [new PlacementRequest($item, 4000)]);
        $this->as('receivables');
        $said = $this->whys('/TEST/receivables/why/document/'.$id);
        self::assertStringContainsString(
            'as the terms stand now they give 10 Jul 2026; it was typed, or they were changed since',
            $said['Due 1 Aug 2026'] ?? '',
        );
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$paid]);
        $open = (string) array_key_last($said);
        self::assertStringEndsWith(' 60.00', $open);
        self::assertStringContainsString('−40.00 on 15 Jun 2026, with '.$number, $said[$open]);
    }

    /** A claim of 300.00 on what was invoiced at 1.10 carries 330.00, and is not said to be worked out by any rate. */
    public function testTheBaseOfATransferIsAShareAndNoRate(): void
    {
        $id = $this->invoice(Side::Receivables, '1000.00', ['currency' => 'EUR', 'rate' => '1.1']);
        $claim = self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($this->itemOf($id), 30000, ClaimKind::Disputed, 'scratched'),
            Day::of(self::DAY),
        );
        $this->as('receivables');
        $said = $this->whys('/TEST/receivables/why/document/'.$claim);
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$id]);
        self::assertStringContainsString('300.00 EUR of '.$number, $said['In USD 330.00'] ?? '');
        self::assertStringNotContainsString('rate', $said['In USD 330.00']);
    }

    /** What changed after posting is not said of the document: neither its discount base nor the day it was entered on. */
    public function testWhatChangedSinceIsNotSaidOfADocument(): void
    {
        $lines = [['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8']];
        $id = $this->invoice(Side::Payables, '', ['lines' => $lines]);
        $this->db()->executeStatement(
            "INSERT INTO setting (company_id, name, value) VALUES (?, 'discount_base', 'net')",
            [$this->clerk->companyId],
        );
        self::get(Settings::class)->reset();
        self::get(SaveTerm::class)->save($this->clerk, [
            'code' => 'ENTRY',
            'text' => 'entry',
            'use' => 'both',
            'runs_from' => 'entry',
            'net' => '30',
        ]);
        $entered = $this->invoice(Side::Payables, '50.00', ['terms' => 'ENTRY', 'document_date' => '2026-05-01']);
        $this->as('payables');
        $said = $this->whys('/TEST/payables/why/document/'.$id);
        self::assertStringContainsString('2 % of the total', $said['Discount until 20 Jun 2026 2.16']);
        // 15 June and 30 days
        $said = $this->whys('/TEST/payables/why/document/'.$entered);
        self::assertStringContainsString('the day of entry, which is not kept', $said['Due 15 Jul 2026']);
        self::assertStringNotContainsString('typed', $said['Due 15 Jul 2026']);
    }

    public function testAFormThatIsTypedSaysTheSameAsItsPostedInvoice(): void
    {
        $this->as('payables');
        $fields = [
            'party' => 'V-1',
            'number' => 'N-77',
            'document_date' => '2026-06-10',
            'currency' => 'USD',
            'terms' => '2-10-N30',
            'lines' => [['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8']],
        ];
        $page = $this->post('/TEST/payables/invoice', '/TEST/payables/why/form', $fields);
        $typed = $page->filter('.whys')->text();
        $id = $this->invoice(Side::Payables, '', $fields);
        $posted = $this->page('/TEST/payables/why/document/'.$id)
            ->filter('.whys')
            ->text();
        self::assertNotSame('', $typed);
        self::assertTrue(str_starts_with($posted, $typed), $posted);
        $page = $this->post('/TEST/payables/invoice', '/TEST/payables/why/form', ['party' => 'V-1']);
        self::assertStringContainsString('Nothing is worked out yet', $page->text());
    }

    public function testAProposalSaysWhyAnItemIsInOrOut(): void
    {
        $in = $this->itemOf($this->invoice(Side::Payables, '100.00', ['document_date' => '2026-06-10']));
        $out = $this->itemOf(
            $this->invoice(Side::Payables, '300.00', ['document_date' => '2026-06-12', 'terms' => 'N30']),
        );
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY]);
        $run = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $this->as('payables');
        $said = $this->whys("/TEST/payables/why/proposal/$run/$in");
        self::assertSame('98.00', substr((string) array_keys($said)[1], -5));
        self::assertStringContainsString('discount would be lost', array_values($said)[0]);
        self::assertStringContainsString(
            'discount 2.00 until 20 Jun 2026: holds on the pay date, lapses before the next one',
            array_values($said)[0],
        );
        self::assertStringContainsString(
            'not due yet',
            array_values($this->whys("/TEST/payables/why/proposal/$run/$out"))[0],
        );
        $this->browser->request('GET', "/TEST/payables/why/proposal/$run/999999");
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
    }

    public function testDraftsAndOtherCompaniesSayNothing(): void
    {
        $draft = self::get(KeepDraft::class)
            ->keep($this->clerk, Side::Payables, ['party' => 'V-1'])
            ->id();
        $this->as('payables');
        $this->browser->request('GET', '/TEST/payables/why/document/'.$draft);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        $id = $this->invoice(Side::Receivables, '100.00');
        foreach (
            ['/TEST/payables/why/document/' => 404, '/TEST/receivables/why/document/' => 403] as $path => $status
        ) {
            $this->browser->request('GET', $path.$id);
            self::assertSame($status, $this->browser->getResponse()->getStatusCode(), $path);
        }
    }

    /** The rows of the lists know where their answer is. */
    public function testRowsLeadToTheirAnswer(): void
    {
        $id = $this->invoice(Side::Receivables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $this->as('receivables');
        foreach (['items', 'documents', 'document/'.$id] as $page) {
            $why = $this->page('/TEST/receivables/'.$page)
                ->filter('[data-why]')
                ->first()
                ->attr('data-why');
            self::assertSame('/TEST/receivables/why/document/'.$id, $why, $page);
        }
        $aged = (string) $this->page('/TEST/receivables/aging/items')->filter('[data-why-text]')->attr('data-why-text');
        self::assertStringContainsString("aged by its due date 1 May 2026\non 15 Jun 2026 that is 45 days ago", $aged);
    }
}
