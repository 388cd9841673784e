<?php

declare(strict_types=1);

namespace Nelbix\Demo;

/** Invented names of the demo. Any likeness is chance. */
final class Names
{
    /** name, terms, default account, if paid late, method */
    public const VENDORS = [
        ['Fenwick Timber', '2-10-N30', '5000', 'costs', 'check'], ['Brightwater Resin', '2-10-N30', '5000', 'costs', 'check'], ['Corrie Bronze', '3-10-2-20-N45', '5000', 'can_wait', 'check'],
        ['Sable Sailcloth', 'N30', '5000', 'can_wait', 'check'], ['Lindqvist Crane Hire', 'N10', '5100', 'stops_work', 'check'], ['Harbor Fuel', '2-10-N30', '6100', 'stops_work', 'check'],
        ['Mutual Marine Insurance', 'MONTH10', '6200', 'stops_work', 'transfer'], ['Copperline Fasteners', '2-10-N30', '5000', 'can_wait', 'check'], ['Tolver Paints', 'N30', '5000', 'can_wait', 'check'],
        ['Greyling Rope Walk', 'N30', '5000', 'can_wait', 'check'], ['Osprey Engine Works', '2-10-N30', '5100', 'costs', 'check'], ['Dunmore Electric Supply', 'N30', '5000', 'can_wait', 'check'],
        ['Pell & Daughters Chandlers', '2-10-N30', '5000', 'can_wait', 'check'], ['Ketterby Freight', 'N10', '5200', 'costs', 'check'], ['Northreach Power', 'MONTH10', '6100', 'stops_work', 'transfer'],
        ['Alder Point Water District', 'MONTH10', '6100', 'stops_work', 'transfer'], ['Quillan Office Goods', 'N30', '6400', 'can_wait', 'check'], ['Vasker Waste Service', 'N30', '6300', 'can_wait', 'check'],
        ['Mossgate Tool Rental', 'N10', '6300', 'costs', 'check'], ['Ironbark Hardwoods', '3-10-2-20-N45', '5000', 'costs', 'check'], ['Tidewrack Surveyors', 'N30', '5100', 'can_wait', 'check'],
        ['Sundrey Safety Gear', 'N30', '5000', 'can_wait', 'check'], ['Holloway Rigging', '2-10-N30', '5100', 'costs', 'check'], ['Penhallow Legal', 'N60', '6400', 'can_wait', 'check'],
        ['Wexcombe Accountants', 'N30', '6400', 'can_wait', 'check'], ['Blue Heron Catering', 'N10', '6400', 'can_wait', 'check'], ['Skarsund Marine Varnish', 'N30', '5000', 'can_wait', 'check'],
        ['Ravel & Stitch Upholstery', 'N30', '5100', 'can_wait', 'check'], ['Cooper Lane Garage', 'N10', '6300', 'can_wait', 'check'], ['Whitlock Telephone', 'MONTH10', '6400', 'stops_work', 'transfer'],
        ['Anvil Street Foundry', '2-10-N30', '5000', 'costs', 'check'], ['Marram Plywood', '2-10-N30', '5000', 'costs', 'check'], ['Gallant Compass Works', 'N30', '5000', 'can_wait', 'check'],
        ['Ostrander Glass', 'N30', '5000', 'can_wait', 'check'], ['Tern Island Ferry', 'NOW', '6500', 'can_wait', 'card'], ['Barrow Quay Landlords', 'MONTH10', '6000', 'stops_work', 'transfer'],
        ['Hexley Pump Company', 'N30', '5000', 'costs', 'check'], ['Brindle Leatherworks', 'N30', '5000', 'can_wait', 'check'], ['Saltmarsh Printing', 'N30', '6400', 'can_wait', 'check'],
        ['Kirkholm Teak Importers', '2-10-N30', '5000', 'costs', 'check'], ['Fathom Depth Instruments', 'N30', '5000', 'can_wait', 'check'], ['Wickstead Brushes', 'N30', '5000', 'can_wait', 'check'],
        ['Lorne Battery House', 'N30', '5000', 'can_wait', 'check'], ['Cresthaven Diving', 'N10', '5100', 'can_wait', 'check'], ['Bellwether Carpentry', 'N10', '5100', 'costs', 'check'],
        ['Palliser Canvas', '2-10-N30', '5000', 'can_wait', 'check'], ['Eastlight Lanterns', 'N30', '5000', 'can_wait', 'check'], ['Thornby Hydraulics', 'N30', '5000', 'costs', 'check'],
        ['Juniper Spar Makers', '2-10-N30', '5000', 'costs', 'check'], ['Cinder Bay Welding', 'N10', '5100', 'can_wait', 'check'], ['Averill Moorings', 'N30', '6000', 'can_wait', 'check'],
        ['Holm & Vik Beslag', 'N30', '5000', 'can_wait', 'check'], ['Nordhavn Tau', 'N30', '5000', 'can_wait', 'check'], ['Strandby Lak', '2-10-N30', '5000', 'can_wait', 'check'],
        ['Tamarack Chandlery', 'N30', '5000', 'can_wait', 'check'], ['Ennisfield Anodes', 'N30', '5000', 'can_wait', 'check'], ['Raftery Trailer Parts', 'N30', '5000', 'can_wait', 'check'],
        ['Undercliff Archive Storage', 'N60', '6400', 'can_wait', 'check'], ['Petrel Navigation Charts', 'N30', '5000', 'can_wait', 'check'], ['The Long and Winding Sound Coast Marine Timber, Plywood & Veneer Merchants Cooperative', 'N30', '5000', 'can_wait', 'check'],
    ];

    public const CUSTOMER_FIRST = ['Gannet', 'Cormorant', 'Plover', 'Avocet', 'Curlew', 'Dunlin', 'Eider', 'Fulmar', 'Guillemot', 'Kittiwake', 'Merganser', 'Oystercatcher', 'Pintail', 'Razorbill', 'Sanderling', 'Shearwater', 'Skua', 'Turnstone', 'Whimbrel', 'Wigeon'];
    public const CUSTOMER_SECOND = ['Sailing School', 'Yacht Club', 'Charter Company', 'Boat Hire', 'Ferry Line', 'Rowing Society', 'Island Tours', 'Fisheries', 'Marina', 'Sea Scouts'];
    public const WORK = ['Refit, sloop %s', 'Slip rental %s', 'Winter storage %s', 'Dinghy, oak, %s', 'Sail repair %s', 'Hull survey %s', 'Engine service %s', 'Mast and rigging %s', 'Varnish work %s', 'Mooring %s'];
    public const BOATS = ['Petrel', 'Marigold', 'Second Wind', 'Ada', 'Kestrel', 'Juniper', 'Northern Light', 'Sparrow', 'Blue Door', 'Patience', 'Halcyon', 'Wren'];
    public const GOODS = ['oak planks', 'epoxy, 4 drums', 'bronze cleats', 'sailcloth 9 oz', 'crane, half day', 'diesel', 'premium', 'screws and bolts', 'topside paint', 'rope 14 mm', 'engine parts', 'cable and fuses'];

    /** username, name, roles in the companies */
    public const USERS = [
        ['ilves', 'M. Ilves', 'payables'], ['okafor', 'R. Okafor', 'receivables'], ['brandt', 'L. Brandt', 'controller'],
        ['soto', 'A. Soto', 'approver'], ['reyes', 'J. Reyes', 'receiver'], ['quist', 'E. Quist', 'auditor'],
    ];
}
