<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Parties\Twins;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** Vendors and customers in full. */
final class PartyTest extends ScreenCase
{
    private function id(string $code): int
    {
        return (int) $this->db()->fetchOne('SELECT id FROM party WHERE code = ? AND company_id = ?', [
            $code,
            $this->clerk->companyId,
        ]);
    }

    public function testAllOfAVendorIsKeptShownAndItsHistorySaysFromWhatToWhat(): void
    {
        $fields = [
            'code' => 'V-7',
            'name' => 'Corrie Bronze',
            'terms' => 'N30',
            'default_account' => '5000',
            'tax_code' => 'P8',
            'iban' => 'GB82 WEST 1234 5698 7654 32',
            'method' => 'transfer',
            'addresses' => [
                'remit' => [
                    'name' => 'Corrie Collections',
                    'street' => '9 Fore Street',
                    'city' => 'Cinder Bay',
                    'country' => 'US',
                ],
                'order' => ['name' => ''],
            ],
            'contacts' => [
                ['name' => 'Ann Corrie', 'does' => 'invoices', 'email' => 'ann@corrie.example', 'phone' => '555 0101'],
                ['name' => ''],
            ],
            'stops' => ['payment' => ['reason' => 'short delivery', 'ends_on' => '7/31'], 'orders' => ['reason' => '']],
        ];
        $page = $this->post('/TEST/payables/party', '/TEST/payables/party/save', $fields);
        foreach (
            [
                'Corrie Collections, 9 Fore Street',
                'Ann Corrie, invoices',
                '555 0101',
                'No payment until 31 Jul 2026: short delivery',
                'waits for a second person',
            ] as $expected
        ) {
            self::assertStringContainsString($expected, $page->filter('aside')->text());
        }
        $id = $this->id('V-7');
        $form = $this->browser
            ->request('GET', '/TEST/payables/party/'.$id.'/edit')
            ->filter('#party')
            ->form();
        $values = $form->getPhpValues();
        unset($values['_token']);
        self::assertSame(
            ['P8', 'Ann Corrie', 'short delivery'],
            [$values['tax_code'], $values['contacts'][0]['name'], $values['stops']['payment']['reason']],
        );
        $values['name'] = 'Corrie Bronze & Brass';
        $values['stops']['payment']['reason'] = '';
        $values['stops']['payment']['ends_on'] = '';
        $page = $this->post('/TEST/payables/party/'.$id.'/edit', '/TEST/payables/party/save', $values);
        self::assertStringContainsString(
            'name from Corrie Bronze to Corrie Bronze & Brass',
            $page->filter('main')->text(),
        );
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM party_stop WHERE party_id = ?', [$id]));
        $wrong = $this->post('/TEST/payables/party/'.$id.'/edit', '/TEST/payables/party/save', [
            ...$values,
            '_version' => (string) $this->db()->fetchOne('SELECT version FROM party WHERE id = ?', [$id]),
            'iban' => 'GB83 WEST 1234 5698 7654 32',
            'routing_number' => '123456789',
            'commission_percent' => '-1',
            'contacts' => [['email' => 'nobody']],
            'stops' => [
                'orders' => ['reason' => '', 'ends_on' => '7/31'],
                'invoices' => ['reason' => 'x', 'ends_on' => 'never'],
            ],
        ])
            ->filter('.said-refused')
            ->text();
        foreach (
            [
                'check digits do not fit',
                '123456789 is not a routing number',
                'Give a percent',
                '“nobody” is not an e-mail',
                'Say why there is no new orders',
                '“never”',
            ] as $expected
        ) {
            self::assertStringContainsString($expected, $wrong);
        }
    }

    public function testStopsStopWhatTheySay(): void
    {
        $save = self::get(SaveParty::class);
        $stop = fn (string $what, string $until = ''): mixed => $save->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', 'stops' => [$what => ['reason' => 'disputed', 'ends_on' => $until]]],
            $this->id('V-1'),
        );
        $stop('invoices', '2026-06-01');
        $this->invoice(Side::Payables, '10.00', ['number' => 'A']);
        $stop('invoices', '2026-12-31');
        self::assertSame(
            ['party'],
            self::refusedFields(fn () => $this->invoice(Side::Payables, '10.00', ['number' => 'B'])),
        );
        $this->invoice(Side::Payables, '1.00', ['number' => 'C', 'kind' => 'credit_note']);
        $stop('payment');
        $out = array_column($this->candidates(), 1);
        self::assertSame([true, true], $out);
        $stop('payment', '2026-06-11');
        self::assertSame([false, false], array_column($this->candidates(), 1), 'a stop that is over stops nothing');
    }

    /** @return list<array{string, bool}> */
    private function candidates(): array
    {
        return array_map(
            static fn ($c): array => [$c->item->number, $c->payee->stopped],
            self::get(\Nelbix\App\Payables\CandidateQuery::class)->open($this->clerk->companyId),
        );
    }

    /** @return iterable<array{string, string, string|null}> */
    public static function names(): iterable
    {
        yield ['Fenwick Timber', 'Fenwick Timber Ltd.', 'name nearly equal'];
        yield ['Fenwick Timber', 'The Fenwick & Timber Company', 'name nearly equal'];
        yield ['Brightwater Resin', 'Brigthwater Resin', 'name nearly equal'];
        yield ['Skarsund Marine', 'Skårsund Marine', 'name nearly equal'];
        yield ['Harbor Fuel', 'Harbor Food', null];
        yield ['Ace', 'Ade', null];
        yield ['Fenwick Timber', 'Corrie Bronze', null];
    }

    #[DataProvider('names')]
    public function testNearNames(string $known, string $typed, ?string $why): void
    {
        $this->db()->executeStatement('UPDATE party SET name = ? WHERE id = ?', [$known, $this->id('V-1')]);
        $found = self::get(Twins::class)->of($this->clerk->companyId, Side::Payables, $typed, '', '', '', '', null);
        self::assertSame(null === $why ? [] : [$why], array_column($found, 'why'));
    }

    public function testTwinsByNumberAndBankAreShownBesideTheForm(): void
    {
        $this->db()->executeStatement(
            "UPDATE party SET tax_number = 'TN-10 20', iban = 'GB82WEST12345698765432' WHERE id = ?",
            [$this->id('V-1')],
        );
        foreach ([['tax_number' => 'tn1020'], ['iban' => 'gb82 west 1234 5698 7654 32']] as $typed) {
            self::assertStringContainsString(
                'V-1',
                $this->post('/TEST/payables/party', '/TEST/payables/party/twins', [
                    'name' => 'Quite another',
                    ...$typed,
                ])->text(),
            );
        }
        self::assertSame(
            '',
            trim(
                $this->post('/TEST/payables/party', '/TEST/payables/party/twins', ['name' => 'Quite another'])->text(
                    '',
                ),
            ),
        );
        self::assertSame(
            [],
            self::get(Twins::class)->of(
                $this->clerk->companyId,
                Side::Payables,
                'Fenwick Timber',
                'TN-10 20',
                '',
                '',
                '',
                $this->id('V-1'),
            ),
            'nobody is their own twin',
        );
    }

    public function testOneBusinessIsLinkedOnBothAndTakenApart(): void
    {
        $vendor = $this->id('V-1');
        $page = $this->post('/TEST/payables/party/'.$vendor, '/TEST/payables/party/'.$vendor.'/link', [
            'linked' => 'C-1',
        ]);
        self::assertStringContainsString('are one business', $page->filter('.said-done')->text());
        self::assertStringContainsString(
            'Also our vendor',
            $this->browser
                ->request('GET', '/TEST/receivables/party/'.$this->id('C-1'))
                ->filter('aside')
                ->text(),
        );
        self::assertStringContainsString(
            'There is no customer “nope”',
            $this->post('/TEST/payables/party/'.$vendor, '/TEST/payables/party/'.$vendor.'/link', [
                'linked' => 'nope',
            ])
                ->filter('.said-refused')
                ->text(),
        );
        $this->post('/TEST/payables/party/'.$vendor, '/TEST/payables/party/'.$vendor.'/link', [
            '_action' => 'unlink',
        ]);
        self::assertSame(
            [null, null],
            [
                $this->db()->fetchOne('SELECT linked_party_id FROM party WHERE id = ?', [$vendor]),
                $this->db()->fetchOne('SELECT linked_party_id FROM party WHERE id = ?', [$this->id('C-1')]),
            ],
        );
    }

    public function testRetiringWaitsForOpenItems(): void
    {
        $this->invoice(Side::Payables, '10.00');
        $retire = fn (): mixed => self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', 'retired' => 'yes'],
            $this->id('V-1'),
        );
        self::assertSame(['retired'], self::refusedFields($retire));
        $this->money(
            Side::Payables,
            1000,
            [new PlacementRequest((int) $this->db()->fetchOne('SELECT id FROM open_item LIMIT 1'), 1000)],
            [],
            self::DAY,
            \Nelbix\Core\Ledger\DocumentKind::Payment,
        );
        $retire();
        $this->browser->request('GET', '/TEST/payables/pick/party?q=V-1');
        self::assertSame('[]', $this->browser->getResponse()->getContent());
        self::assertContains(
            'party',
            self::refusedFields(fn () => $this->invoice(Side::Payables, '10.00', ['number' => 'X'])),
        );
    }

    public function testTheCreditLimitWarnsAndDefaultsAreOffered(): void
    {
        $this->db()->executeStatement(
            <<<'SQL'
            UPDATE party
            SET credit_limit = 100000, default_tax_code_id = (SELECT id FROM tax_code WHERE code = 'S8' AND company_id = ?)
            WHERE code = 'C-1'
            SQL
            ,
            [$this->clerk->companyId],
        );
        $this->invoice(Side::Receivables, '900.00');
        $live = $this->post('/TEST/receivables/invoice', '/TEST/receivables/invoice/live', [
            'party' => 'C-1',
            'document_date' => '.',
            'lines' => [['account' => '4000', 'amount' => '250']],
        ]);
        self::assertStringContainsString('Over the credit limit by 150.00 USD', $live->filter('.look-alike')->text());
        self::assertSame('{"tax_code":"S8"}', $live->filter('[data-defaults]')->attr('data-defaults'));
        $within = $this->post('/TEST/receivables/invoice', '/TEST/receivables/invoice/live', [
            'party' => 'C-1',
            'document_date' => '.',
            'lines' => [['account' => '4000', 'amount' => '100']],
        ]);
        self::assertCount(0, $within->filter('.look-alike'));
    }

    public function testControlAndPrepaymentAccountsOfItsOwn(): void
    {
        foreach (
            [
                ['2106', 'Payables to boatyards', 'liability', 'payables'],
                ['1255', 'Prepaid to boatyards', 'asset', 'vendor_prepayments'],
            ] as [$number, $name, $type, $role]
        ) {
            self::get(\Nelbix\App\Ledger\SaveAccount::class)->save($this->clerk, [
                'number' => $number,
                'name' => $name,
                'type' => $type,
                'role' => $role,
            ]);
        }
        $save = fn (array $raw): mixed => self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', ...$raw],
            $this->id('V-1'),
        );
        $this->invoice(Side::Payables, '30.00');
        self::assertSame(-3000, $this->balance('2100'), 'a second account with the role changes nothing by itself');
        self::assertSame(
            ['control_account', 'prepayment_account'],
            self::refusedFields(fn () => $save(['control_account' => '5000', 'prepayment_account' => '2100'])),
        );
        $save(['control_account' => '2106', 'prepayment_account' => '1255']);
        $this->invoice(Side::Payables, '100.00');
        $this->money(Side::Payables, 2500, [], [], self::DAY, \Nelbix\Core\Ledger\DocumentKind::Prepayment);
        self::assertSame(
            [-3000, -10000, 2500, 0],
            [$this->balance('2100'), $this->balance('2106'), $this->balance('1255'), $this->balance('1250')],
        );
        self::assertSame(
            ['retired'],
            self::refusedFields(
                fn () => self::get(\Nelbix\App\Ledger\SaveAccount::class)->save(
                    $this->clerk,
                    ['name' => 'x', 'type' => 'liability', 'role' => 'payables', 'retired' => 'yes'],
                    (int) $this->db()->fetchOne("SELECT id FROM account WHERE number = '2106'"),
                ),
            ),
        );
        $page = $this->browser->request('GET', '/TEST/payables/party/'.$this->id('V-1').'/edit');
        self::assertSame('2106', $page->filter('#control_account option[selected]')->attr('value'));
    }

    public function testStatementsRemindersAndFinanceChargesOfACustomer(): void
    {
        self::get(\Nelbix\App\Parties\SaveReminderLadder::class)->save($this->clerk, [
            'code' => 'SOFT',
            'name' => 'Gentle',
            'rungs' => '7, 21 45',
        ]);
        $id = $this->id('C-1');
        $form = [
            '_id' => (string) $id,
            '_version' => '1',
            'code' => 'C-1',
            'name' => 'Gannet Sailing School',
            'statement' => 'open',
            'reminder_ladder' => 'SOFT',
            'charge_rate' => '18',
            'charge_grace_days' => '5',
            'charge_smallest' => '2.50',
            'charge_on_charges' => 'yes',
        ];
        $page = $this->post('/TEST/receivables/party/'.$id.'/edit', '/TEST/receivables/party/save', $form);
        foreach (['open items, monthly', 'SOFT', '18 % a year after 5 days'] as $expected) {
            self::assertStringContainsString($expected, $page->filter('aside')->text());
        }
        self::assertStringContainsString('charge rate now 18', $page->filter('main')->text());
        $edit = $this->browser->request('GET', '/TEST/receivables/party/'.$id.'/edit');
        self::assertSame(
            ['2.50', 'SOFT'],
            [
                $edit->filter('#charge_smallest')->attr('value'),
                $edit->filter('#reminder_ladder option[selected]')->attr('value'),
            ],
        );
        $wrong = $this->post('/TEST/receivables/party/'.$id.'/edit', '/TEST/receivables/party/save', [
            ...$form,
            '_version' => (string) $this->db()->fetchOne('SELECT version FROM party WHERE id = ?', [$id]),
            'statement' => 'x',
            'reminder_ladder' => 'NONE',
            'charge_rate' => '180',
            'charge_grace_days' => '-1',
            'charge_smallest' => '-1',
        ]);
        self::assertCount(5, $wrong->filter('.said-refused li'));
        $this->db()->executeStatement('UPDATE reminder_ladder SET retired = 1');
        $again = $this->browser
            ->request('GET', '/TEST/receivables/party/'.$id.'/edit')
            ->filter('#party')
            ->form()
            ->getPhpValues();
        self::assertSame('SOFT', $again['reminder_ladder'], 'a retired ladder stays with who has it');
        $this->post('/TEST/receivables/party/'.$id.'/edit', '/TEST/receivables/party/save', $again);
        self::assertNotNull($this->db()->fetchOne('SELECT reminder_ladder_id FROM party WHERE id = ?', [$id]));
        self::assertStringNotContainsString(
            'SOFT',
            $this->browser->request('GET', '/TEST/receivables/party')->filter('#reminder_ladder')->text(),
            'and leaves the choice of the others',
        );
        self::assertSame(
            ['rungs'],
            self::refusedFields(
                fn () => self::get(\Nelbix\App\Parties\SaveReminderLadder::class)->save($this->clerk, [
                    'code' => 'BAD',
                    'name' => 'Bad',
                    'rungs' => '21 7',
                ]),
            ),
        );
    }

    public function testOtherBankAccountsWaitForASecondPersonToo(): void
    {
        $id = $this->id('V-1');
        $save = fn (array $banks): mixed => self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', 'banks' => $banks],
            $id,
        );
        $banks = fn (): array => self::get(\Nelbix\App\Parties\PartyBanks::class)->of($id);
        self::assertSame(
            ['banks', 'banks'],
            self::refusedFields(
                fn () => $save([
                    ['label' => 'half', 'routing_number' => '021000021'],
                    ['iban' => 'GB83 WEST 1234 5698 7654 32'],
                ]),
            ),
        );
        $save([['label' => 'Euro', 'iban' => 'GB82 WEST 1234 5698 7654 32'], ['label' => '', 'iban' => '']]);
        self::assertSame(
            [['Euro', false]],
            array_map(static fn (array $b): array => [$b['label'], $b['confirmed']], $banks()),
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(SaveParty::class)->confirmBankDetails($this->clerk, $id)),
            'not by who entered it',
        );
        self::get(SaveParty::class)->confirmBankDetails($this->approver, $id);
        self::assertTrue($banks()[0]['confirmed']);
        $save([['id' => (string) $banks()[0]['id'], 'label' => 'Euros', 'iban' => 'GB82WEST12345698765432']]);
        self::assertSame(
            [['Euros', true]],
            array_map(static fn (array $b): array => [$b['label'], $b['confirmed']], $banks()),
            'a new label changes no money’s way',
        );
        $save([['id' => (string) $banks()[0]['id'], 'label' => 'Euros', 'iban' => 'DE89 3704 0044 0532 0130 00']]);
        self::assertSame([false], array_column($banks(), 'confirmed'));
        $said = (string) $this->db()->fetchOne(
            "SELECT detail FROM history WHERE subject = 'party' AND action = 'other bank accounts changed' ORDER BY id DESC LIMIT 1",
        );
        self::assertMatchesRegularExpression('/Euros GB82WEST12345698765432 taken away/', $said);
        self::assertMatchesRegularExpression('/now Euros DE89370400440532013000/', $said);
        $main = fn (string $iban): mixed => self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', 'iban' => $iban],
            $id,
        );
        $main('GB82WEST12345698765432');
        $main('DE89370400440532013000');
        self::assertStringContainsString(
            'IBAN from GB82WEST12345698765432 to DE89370400440532013000; a second person must confirm them',
            (string) $this->db()->fetchOne(
                "SELECT detail FROM history WHERE subject = 'party' AND action = 'bank details changed' ORDER BY id DESC LIMIT 1",
            ),
        );
        self::assertStringContainsString(
            'waits for a second person',
            $this->browser
                ->request('GET', '/TEST/payables/party/'.$id)
                ->filter('aside')
                ->text(),
        );
        $save([]);
        self::assertSame([], $banks());
    }
}
