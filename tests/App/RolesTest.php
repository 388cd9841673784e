<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\User;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** Every change, tried by every role with a valid token. Source: product.md, Who uses it. */
final class RolesTest extends ScreenCase
{
    private const ALL = ['payables', 'receivables', 'receiver', 'buyer', 'approver', 'controller', 'auditor'];

    /** @return iterable<string, array{string, array<string, string>, list<string>}> path, fields, roles that get past the gate */
    public static function changes(): iterable
    {
        $p = ['payables', 'controller'];
        $r = ['receivables', 'controller'];
        yield 'post a vendor invoice' => ['/TEST/payables/invoice', [], $p];
        yield 'see its entry' => ['/TEST/payables/invoice/live', [], $p];
        yield 'post a customer invoice' => ['/TEST/receivables/invoice', [], $r];
        yield 'throw a vendor draft away' => ['/TEST/payables/draft/999/discard', [], $p];
        yield 'hold, void or reverse in payables' => ['/TEST/payables/document/ID/change', ['_action' => 'hold'], $p];
        yield 'approve a vendor invoice' => [
            '/TEST/payables/document/ID/decide',
            ['_action' => 'approve'],
            ['approver'],
        ];
        yield 'undo a payables settlement' => ['/TEST/payables/settlement/999/undo', [], $p];
        yield 'undo a receivables settlement' => ['/TEST/receivables/settlement/999/undo', [], $r];
        yield 'post a receipt' => ['/TEST/receivables/receipt', [], $r];
        yield 'save a vendor' => ['/TEST/payables/party/save', [], $p];
        yield 'save a customer' => ['/TEST/receivables/party/save', [], $r];
        yield 'confirm bank details' => ['/TEST/payables/party/999/confirm', [], ['approver']];
        yield 'make a proposal' => ['/TEST/payables/proposal', [], $p];
        foreach (['items', 'line', 'payment', 'accept', 'drop', 'print', 'printer', 'printed', 'post'] as $step) {
            yield $step.' of a run' => ['/TEST/payables/proposal/999/'.$step, [], $p];
        }
        yield 'approve a run' => ['/TEST/payables/proposal/999/decide', [], ['approver']];
        yield 'skip checks' => ['/TEST/bank/register/999/skip', [], $p];
        yield 'record a delivery' => ['/TEST/deliveries/new', [], ['receiver', 'controller']];
        yield 'see its entry first' => ['/TEST/deliveries/live', [], ['receiver', 'controller']];
        yield 'order something' => ['/TEST/orders/new', [], ['buyer', 'controller']];
        yield 'approve an order' => ['/TEST/orders/999/decide', [], ['approver']];
        yield 'decide on a match' => ['/TEST/payables/document/999/match', [], ['buyer', 'approver', 'controller']];
        yield 'reverse a delivery' => ['/TEST/deliveries/999/reverse', [], ['receiver', 'controller']];
        yield 'add a vendor beside an invoice' => ['/TEST/payables/party/quick', [], $p];
        yield 'save terms' => ['/TEST/setup/terms/save', [], ['controller']];
        yield 'save an account' => ['/TEST/setup/accounts/save', [], ['controller']];
        yield 'save a bank account' => ['/TEST/setup/bank-accounts/save', [], ['controller']];
        yield 'save a tax code' => ['/TEST/setup/tax-codes/save', [], ['controller']];
        yield 'import vendors' => ['/TEST/import/check', ['kind' => 'vendors'], $p];
        yield 'take vendors over' => ['/TEST/import/take', ['kind' => 'vendors'], $p];
        yield 'keep a paper' => ['/TEST/payables/paper', [], $p];
        yield 'finish a task' => [
            '/TEST/task/999/done',
            [],
            ['payables', 'receivables', 'receiver', 'buyer', 'approver', 'controller'],
        ];
        yield 'open a batch' => ['/TEST/payables/batches/open', ['name' => 'x'], $p];
        yield 'keep rows' => ['/TEST/payables/batches/999/rows', [], $p];
        yield 'post a batch' => ['/TEST/payables/batches/999', ['_action' => 'post'], $p];
        yield 'send invoices' => ['/TEST/receivables/send', [], $r];
        yield 'make it recurring' => ['/TEST/payables/recurring/like/999', [], $p];
        yield 'prepare what is due' => ['/TEST/payables/recurring/prepare', [], $p];
        yield 'link a business' => ['/TEST/payables/party/999/link', [], $p];
        yield 'keep the company' => ['/TEST/setup/company', ['name' => 'Test', 'time_zone' => 'UTC'], ['controller']];
        yield 'keep a split' => ['/TEST/payables/split/keep', [], $p];
        yield 'keep settings' => ['/TEST/setup', ['look_alike_days' => '9'], ['controller']];
        yield 'lock a period' => ['/TEST/close/lock', [], ['controller']];
        yield 'switch single keys' => ['/TEST/keys', [], self::ALL];
    }

    /**
     * @param array<string, string> $fields
     * @param list<string> $may
     */
    #[DataProvider('changes')]
    public function testChanges(string $path, array $fields, array $may): void
    {
        $path = str_replace('ID', (string) $this->invoice(Side::Payables, '10.00'), $path);
        foreach (self::ALL as $role) {
            $user =
                self::get(EntityManagerInterface::class)
                    ->getRepository(User::class)
                    ->findOneBy(['username' => $role]) ?? self::fail();
            SignedIn::as($this->browser, $user);
            $token = $this->browser->request('GET', '/TEST')->filter('input[name=_token]')->last()->attr('value');
            $this->browser->request('POST', $path, ['_token' => $token, ...$fields]);
            $status = $this->browser->getResponse()->getStatusCode();
            if (\in_array($role, $may, true)) {
                self::assertContains($status, [200, 303, 404, 422], $role.' on '.$path);
            } else {
                self::assertSame(403, $status, $role.' on '.$path);
            }
        }
    }

    public function testADraftOfTheOtherSideIsOutOfReach(): void
    {
        $keep = self::get(\Nelbix\App\Invoices\KeepDraft::class);
        $draft = $keep->keep($this->clerk, Side::Receivables, ['party' => 'C-1', 'document_date' => '.'])->id();
        self::assertSame([''], self::refusedFields(fn () => $keep->discard($this->clerk, Side::Payables, $draft)));
        self::assertSame(
            [''],
            self::refusedFields(fn () => $keep->keep($this->clerk, Side::Payables, ['party' => 'V-1'], $draft)),
        );
        $keep->discard($this->clerk, Side::Receivables, $draft);
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
    }

    public function testARoleInOneCompanyIsNoneInAnother(): void
    {
        $em = self::get(EntityManagerInterface::class);
        $user = new User('outsider', 'Outsider');
        $user->passwordHash = 'x';
        $em->persist($user);
        $em->flush();
        SignedIn::as($this->browser, $user);
        foreach (['/TEST', '/TEST/payables/items', '/TEST/setup'] as $path) {
            $this->browser->request('GET', $path);
            self::assertSame(404, $this->browser->getResponse()->getStatusCode(), $path);
        }
        $this->browser->request('GET', '/begin/company');
        self::assertStringContainsString(
            'You do not work in any company yet',
            (string) $this->browser->getResponse()->getContent(),
        );
    }
}
