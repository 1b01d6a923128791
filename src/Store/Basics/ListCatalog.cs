using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using static SteadyLark.Core.Basics.ColumnKind;

namespace SteadyLark.Store.Basics;

/// <summary>Every list and its columns.</summary>
public static class ListCatalog
{
    public static readonly ListSource Loads = new(
        "loads",
        "Loads",
        "load_list",
        "load",
        new ListSort("booked", true),
        [
            new("number", "Load", Text),
            new("state", "State", Choice),
            new("customer", "Customer", Text),
            new("customer_city", "Customer city", Text, false),
            new("reference", "Reference", Text, false),
            new("purchase_order", "Purchase order", Text, false),
            new("bill_of_lading", "Bill of lading", Text, false),
            new("pickup_number", "Pickup number", Text, false),
            new("delivery_number", "Delivery number", Text, false),
            new("order_number", "Order number", Text, false),
            new("seal", "Seal", Text, false),
            new("other_reference", "Other references", Text, false),
            new("shipper", "Shipper", Text, false),
            new("origin", "From", Text),
            new("origin_region", "From state", Text, false),
            new("receiver", "Receiver", Text, false),
            new("destination", "To", Text),
            new("destination_region", "To state", Text, false),
            new("stops", "Stops", Number, false),
            new("pickup", "Pickup", Time),
            new("picked_up", "Picked up", Time, false),
            new("delivery", "Delivery", Time, false),
            new("delivered", "Delivered", Time, false),
            new("received_by", "Received by", Text, false),
            new("equipment", "Equipment", Choice, false),
            new("freight", "Freight", Text, false),
            new ListColumn("pieces", "Pieces", Number, false).Summed(),
            new ListColumn("pallets", "Pallets", Number, false).Summed(),
            new ListColumn("weight", "Weight, lb", Number, false).Summed(),
            new("temperature", "Temperature, °F", Number, false),
            new("hazmat", "Hazmat", YesNo, false),
            new("un_number", "UN number", Text, false),
            new("who", "Assigned to", Text),
            new("driver", "Driver", Text, false),
            new("driver_group", "Driver group", Text, false),
            new("truck", "Truck", Text, false),
            new("trailer", "Trailer", Text, false),
            new("trip", "Trip", Text, false),
            new("carrier", "Carrier", Text, false),
            new ListColumn("miles", "Miles", Number, false).Summed(),
            new ListColumn("empty_miles", "Empty miles", Number, false).Summed(),
            new ListColumn("line_haul", "Line haul", ColumnKind.Money, false).Summed(),
            new ListColumn("fuel_surcharge", "Fuel surcharge", ColumnKind.Money, false).Summed(),
            new ListColumn("accessorials", "Accessorials", ColumnKind.Money, false).Summed(),
            new ListColumn("revenue", "Revenue", ColumnKind.Money).Summed(),
            new ListColumn("per_mile", "Per mile", ColumnKind.Money, false).Ratio("revenue", "miles"),
            new ListColumn("agreed", "Carrier pay", ColumnKind.Money, false).Summed(),
            new ListColumn("driver_pay", "Driver pay", ColumnKind.Money, false).Summed(),
            new ListColumn("cost", "Cost", ColumnKind.Money, false).Summed(),
            new ListColumn("margin", "Margin", ColumnKind.Money, false).Summed(),
            new ListColumn("margin_percent", "Margin, %", Number, false).Ratio("margin", "revenue", 100),
            new("invoice", "Invoice", Text, false),
            new("invoiced", "Invoice date", Date, false),
            new("invoice_due", "Invoice due", Date, false),
            new("invoice_paid", "Invoice paid", YesNo, false),
            new("bill", "Carrier bill", Text, false),
            new("held", "On hold", Text, false),
            new("driver_instructions", "Driver instructions", Text, false),
            new("carrier_instructions", "Carrier instructions", Text, false),
            new("booked_by", "Booked by", Text, false),
            new("office", "Office", Text, false),
            new("booked", "Booked", Time, false),
            new("canceled", "Canceled", Time, false),
            new("canceled_reason", "Reason for canceling", Text, false),
        ]
    )
    {
        Needs = new Dictionary<string, Right>
        {
            ["line_haul"] = Right.RatesSee,
            ["fuel_surcharge"] = Right.RatesSee,
            ["accessorials"] = Right.RatesSee,
            ["revenue"] = Right.RatesSee,
            ["per_mile"] = Right.RatesSee,
            ["agreed"] = Right.MarginsSee,
            ["driver_pay"] = Right.WagesSee,
            ["cost"] = Right.MarginsSee,
            ["margin"] = Right.MarginsSee,
            ["margin_percent"] = Right.MarginsSee,
            ["bill"] = Right.PayingSee,
        },
        Zones = new Dictionary<string, string>
        {
            ["pickup"] = "pickup_zone",
            ["picked_up"] = "pickup_zone",
            ["delivery"] = "delivery_zone",
            ["delivered"] = "delivery_zone",
        },
        Choices = new Dictionary<string, IReadOnlyList<string>>
        {
            ["state"] = Enum.GetValues<LoadState>().Select(s => EnumCodec.Of(s)).ToList(),
            ["equipment"] = Enum.GetValues<Equipment>().Select(e => EnumCodec.Of(e)).ToList(),
        },
    };

    private static readonly ListSource Trips = new(
        "trips",
        "Trips",
        "trip_list",
        "",
        new ListSort("begins", true),
        [
            new("number", "Trip", Text),
            new("name", "Name", Text, false),
            new("state", "State", Choice),
            new("driver", "Driver", Text),
            new("codriver", "Co-driver", Text, false),
            new("driver_group", "Driver group", Text, false),
            new("truck", "Truck", Text),
            new("trailer", "Trailer", Text),
            new("equipment", "Equipment", Choice, false),
            new("loads", "Loads", Text),
            new ListColumn("load_count", "Number of loads", Number, false).Summed(),
            new("origin", "From", Text),
            new("destination", "To", Text),
            new("begins", "Begins", Time),
            new("ends", "Ends", Time, false),
            new("accepted", "Accepted by the driver", Time, false),
            new("started", "Started", Time, false),
            new("ended", "Ended", Time, false),
            new("canceled", "Canceled", Time, false),
            new ListColumn("own_stops", "Stops without a load", Number, false).Summed(),
            new ListColumn("miles", "Loaded miles", Number).Summed(),
            new ListColumn("empty_miles", "Empty miles", Number).Summed(),
            new ListColumn("driver_pay", "Driver pay", ColumnKind.Money, false).Summed(),
            new ListColumn("expenses", "Expenses", ColumnKind.Money, false).Summed(),
            new ListColumn("cost", "Cost", ColumnKind.Money).Summed(),
        ]
    )
    {
        LeavesOut = ("state", "archived"),
        Needs = new Dictionary<string, Right>
        {
            ["driver_pay"] = Right.WagesSee,
            ["expenses"] = Right.MarginsSee,
            ["cost"] = Right.MarginsSee,
        },
        Choices = new Dictionary<string, IReadOnlyList<string>>
        {
            ["state"] = ["planned", "under way", "ended", "closed", "canceled", "archived"],
            ["equipment"] = Enum.GetValues<Equipment>().Select(e => EnumCodec.Of(e)).ToList(),
        },
    };

    private static readonly ListSource Invoices = new(
        "invoices",
        "Invoices",
        "invoice_list",
        "invoice",
        new ListSort("number", true),
        [
            new("number", "Invoice", Text),
            new("state", "State", Choice),
            new("customer", "Customer", Text),
            new("customer_city", "Customer city", Text, false),
            new("loads", "Loads", Text),
            new("customer_reference", "References", Text, false),
            new("delivered", "Delivered", Time, false),
            new("issued", "Date", Date),
            new("due", "Due", Date),
            new ListColumn("total", "Total", ColumnKind.Money).Summed(),
            new ListColumn("paid", "Paid", ColumnKind.Money).Summed(),
            new ListColumn("open", "Open", ColumnKind.Money).Summed(),
            new("last_paid", "Last paid", Date, false),
            new("mailed_to", "Emailed to", Text, false),
            new("voided", "Voided", Time, false),
        ]
    )
    {
        Choices = new Dictionary<string, IReadOnlyList<string>> { ["state"] = ["open", "part paid", "paid", "void"] },
    };

    private static readonly ListSource Bills = new(
        "bills",
        "Bills",
        "bill_list",
        "",
        new ListSort("billed", true),
        [
            new("number", "Bill", Text),
            new("state", "State", Choice),
            new("vendor", "From", Text),
            new("load", "Load", Text),
            new("accounts", "Accounts", Text, false),
            new("billed", "Date", Date),
            new("due", "Due", Date),
            new ListColumn("agreed", "Agreed", ColumnKind.Money).Summed(),
            new ListColumn("amount", "Billed", ColumnKind.Money).Summed(),
            new ListColumn("difference", "Billed less agreed", ColumnKind.Money, false).Summed(),
            new ListColumn("approved", "Approved", ColumnKind.Money).Summed(),
            new ListColumn("open", "Open", ColumnKind.Money).Summed(),
            new ListColumn("quick_pay_discount", "Quick-pay discount", ColumnKind.Money, false).Summed(),
            new("approved_at", "Approved on", Time, false),
            new("approved_by", "Approved by", Text, false),
            new("approved_reason", "Reason for approving", Text, false),
            new("paid", "Paid on", Date),
            new("paid_method", "Payment method", Choice, false),
            new("paid_reference", "Payment number", Text, false),
            new("note", "Note", Text, false),
            new("entered", "Entered", Time, false),
        ]
    )
    {
        Choices = new Dictionary<string, IReadOnlyList<string>>
        {
            ["state"] = ["to approve", "over agreed", "approved", "part paid", "paid", "paid expense", "void"],
        },
    };

    private static readonly ListSource Expenses = new(
        "expenses",
        "Trip expenses",
        "expense_list",
        "",
        new ListSort("date", true),
        [
            new("date", "Date", Date),
            new("state", "State", Choice),
            new("trip", "Trip", Text),
            new("kind", "Expense", Choice),
            new("place", "Paid to", Text),
            new("region", "State or province", Text, false),
            new ListColumn("gallons", "Gallons", Number, false).Summed(),
            new("per_gallon", "Per gallon", ColumnKind.Money, false),
            new ListColumn("amount", "Amount", ColumnKind.Money).Summed(),
            new("currency", "Currency", Text, false),
            new("paid_by", "Paid by", Choice),
            new("charge_back", "Charged back", YesNo, false),
            new("driver", "Driver", Text),
            new("truck", "Truck", Text, false),
            new("loads", "Loads", Text, false),
            new("vendor", "Vendor", Text, false),
            new("reference", "Receipt", Text, false),
            new("account", "Account", Text, false),
            new("note", "Note", Text, false),
            new("receipt", "Receipt added", YesNo, false),
            new("reported_by", "Reported by", Text, false),
            new("reported", "Reported", Time, false),
            new("decided_by", "Approved or declined by", Text, false),
            new("decided", "Approved or declined", Time, false),
            new("reason", "Reason for declining", Text, false),
        ]
    )
    {
        Choices = new Dictionary<string, IReadOnlyList<string>>
        {
            ["state"] = Enum.GetValues<ExpenseState>().Select(s => EnumCodec.Of(s)).ToList(),
            ["kind"] = Enum.GetValues<CostKind>().Select(k => k.Format()).ToList(),
            ["paid_by"] = ["company card", "driver", "on account", "separate bill"],
        },
    };

    private static readonly ListSource Companies = new(
        "companies",
        "Companies",
        "company_list",
        "company",
        new ListSort("name", false),
        [
            new("name", "Name", Text),
            new("customer", "Customer", YesNo),
            new("carrier", "Carrier", YesNo),
            new("vendor", "Vendor", YesNo, false),
            new("address", "Street", Text, false),
            new("town", "Town", Text),
            new("region", "State", Text),
            new("phone", "Phone", Text),
            new("email", "Email", Text, false),
            new("terms", "Terms, days", Number, false),
            new("pay_days", "We pay in, days", Number, false),
            new("credit_limit", "Credit limit", ColumnKind.Money, false),
            new ListColumn("owes", "Owes us", ColumnKind.Money).Summed(),
            new("usdot", "USDOT", Text, false),
            new("authority", "Authority active", YesNo, false),
            new("liability_until", "Liability insurance expires", Date, false),
            new("cargo_until", "Cargo insurance expires", Date, false),
            new("do_not_use", "Do not use", Text, false),
            new ListColumn("loads", "Loads", Number).Summed(),
            new("last_booked", "Last booked", Time, false),
            new("note", "Note", Text, false),
        ]
    )
    {
        Needs = new Dictionary<string, Right> { ["owes"] = Right.BillingSee },
    };

    private static readonly ListSource Payments = new(
        "payments",
        "Payments",
        "payment_list",
        "",
        new ListSort("received", true),
        [
            new("received", "Received", Date),
            new("customer", "From", Text),
            new("method", "Method", Choice),
            new("reference", "Number", Text),
            new("state", "State", Choice),
            new ListColumn("amount", "Amount", ColumnKind.Money).Summed(),
            new ListColumn("applied", "Applied", ColumnKind.Money).Summed(),
            new ListColumn("credit", "Unapplied", ColumnKind.Money).Summed(),
            new ListColumn("refunded", "Refunded", ColumnKind.Money).Summed(),
            new ListColumn("posted", "Posted", ColumnKind.Date),
            new("invoices", "Invoices", Text, false),
            new("reversed", "Reversed", Time, false),
        ]
    )
    {
        Choices = new Dictionary<string, IReadOnlyList<string>> { ["state"] = ["applied", "unapplied", "refunded", "reversed"] },
    };

    private static readonly ListSource Claims = new(
        "claims",
        "Claims",
        "claim_list",
        "",
        new ListSort("opened", true),
        [
            new("number", "Claim", Text),
            new("state", "State", Choice),
            new("kind", "Kind", Choice),
            new("load", "Load", Text),
            new("customer", "Customer", Text),
            new("carrier", "Carrier", Text),
            new("opened", "Opened", Date, false),
            new("filed", "Filed", Date),
            new ListColumn("claimed", "Claimed", ColumnKind.Money).Summed(),
            new ListColumn("allowed", "Allowed", ColumnKind.Money).Summed(),
            new ListColumn("recovered", "Recovered", ColumnKind.Money).Summed(),
            new("decided", "Decided", Date, false),
            new("description", "Description", Text, false),
        ]
    )
    {
        Choices = new Dictionary<string, IReadOnlyList<string>>
        {
            ["state"] = ["reported", "filed", "acknowledged", "paid", "settled", "declined", "withdrawn"],
            ["kind"] = ["shortage", "damage", "refused", "loss", "delay"],
        },
    };

    private static readonly ListSource Entries = new(
        "entries",
        "Entries",
        "entry_list",
        "",
        new ListSort("number", true),
        [
            new("number", "Entry", Number),
            new("posted", "Date", Date),
            new("source", "Source", Choice),
            new("memo", "Description", Text),
            new("accounts", "Accounts", Text),
            new ListColumn("amount", "Amount", ColumnKind.Money).Summed(),
            new("loads", "Loads", Text, false),
            new("reversed", "Reversed", YesNo),
            new("reverses", "Reverses", Number, false),
            new("entered", "Entered", Time, false),
        ]
    );

    private static readonly ListSource Places = new(
        "places",
        "Places",
        "place_list",
        "place",
        new ListSort("name", false),
        [
            new("name", "Name", Text),
            new("address", "Street", Text),
            new("town", "Town", Text),
            new("region", "State", Text),
            new("country", "Country", Choice, false),
            new ListColumn("stops", "Stops", Number).Summed(),
            new("last", "Last stop", Time),
            new("zone", "Time zone", Choice, false),
            new("hours", "Hours", Text, false),
            new("appointments", "Appointments", Choice, false),
            new("docks", "Docks", Text, false),
            new("service", "Service, min", Number, false),
            new("booking_note", "Booking note", Text, false),
            new("note", "Note", Text, false),
        ]
    );

    public static readonly IReadOnlyList<ListSource> All =
    [
        Loads,
        Trips,
        Invoices,
        Bills,
        Expenses,
        Companies,
        Payments,
        Claims,
        Entries,
        Places,
    ];
}
