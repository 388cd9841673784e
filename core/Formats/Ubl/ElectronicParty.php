<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Ubl;

/** Seller or buyer of an electronic invoice. Source: EN 16931, BG-4 and BG-7. */
final readonly class ElectronicParty
{
    /** @param string $country two letters of ISO 3166 */
    public function __construct(
        public string $name,
        public string $taxNumber = '',
        public string $street = '',
        public string $city = '',
        public string $country = '',
        public string $email = '',
    ) {
    }
}
