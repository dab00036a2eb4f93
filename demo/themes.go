package demo

// theme is something that customers ask about, in their own words, with the
// articles that answer it. What the simulated visitors do follows from whether
// the real engine shows them one of those.
type theme struct {
	weight  float64  // how often it is asked, against the others
	words   []string // ways to ask it
	answers []string // articles that answer it; none where the library has a gap
	choices []string // what to choose in the bot, instead of asking
	hard    float64  // share that needs a person in the end, whatever they read
}

var themes = []theme{
	{
		24,
		[]string{
			"why is my bill so high",
			"my bill is higher than last month",
			"letter E on my bill",
			"is my bill estimated",
			"bill too high",
		},
		[]string{"why-is-my-bill-estimated"},
		[]string{"A bill or payment"},
		0.16,
	},
	{
		17,
		[]string{
			"how do I give a meter reading",
			"send meter reading",
			"submit reading",
			"where is my meter",
			"read my meter",
		},
		[]string{"give-a-meter-reading"},
		[]string{"My meter"},
		0.03,
	},
	{
		13,
		[]string{
			"cannot sign in",
			"forgot my password",
			"the app will not sign in",
			"reset password code not arriving",
			"locked out of my account",
		},
		[]string{"cannot-sign-in"},
		nil,
		0.14,
	},
	{
		10,
		[]string{"my power is off", "no electricity in my street", "power cut how long", "blackout"},
		[]string{"power-is-off", "flickering-lights"},
		[]string{"My power is off", "The whole street is dark"},
		0.10,
	},
	{
		8,
		[]string{
			"change the day money is taken",
			"direct debit date",
			"change payment day",
			"take payment later in the month",
		},
		[]string{"change-payment-day"},
		[]string{"A bill or payment"},
		0.06,
	},
	{
		7,
		[]string{"I am moving out", "final bill when moving", "close my account moving", "moving out what to do"},
		[]string{"moving-out"},
		[]string{"Moving home"},
		0.10,
	},
	{
		6,
		[]string{"just moved in take over supply", "moving into a new home", "new tenant electricity"},
		[]string{"moving-in"},
		[]string{"Moving home"},
		0.10,
	},
	{
		6,
		[]string{"smart meter not sending readings", "smart meter display blank", "in-home display lost connection"},
		[]string{"smart-meter-stopped-sending"},
		[]string{"My meter"},
		0.22,
	},
	{
		5,
		[]string{
			"battery amber light",
			"orange light on the battery",
			"rented battery blinking amber",
			"battery not charging",
		},
		[]string{"battery-amber-light"},
		[]string{"Solar or battery"},
		0.20,
	},
	{
		5,
		[]string{"when do I get paid for solar", "solar export payment", "paid for surplus electricity"},
		[]string{"export-payments"},
		[]string{"Solar or battery"},
		0.12,
	},
	{
		5,
		[]string{"new tariff price increase letter", "why is the price going up", "what changes with the new tariff"},
		nil,
		nil,
		0.30,
	},
	{
		4,
		[]string{"night rate hours", "when does the cheap rate begin", "off-peak times two-rate meter"},
		[]string{"day-and-night-rate"},
		[]string{"My meter"},
		0.05,
	},
	{
		4,
		[]string{"street charger not working", "car will not charge at the street charger", "charging cable is stuck"},
		[]string{"charger-will-not-start"},
		nil,
		0.18,
	},
	{
		4,
		[]string{"I cannot pay my bill", "payment plan", "behind with bills can I spread it"},
		[]string{"cannot-pay"},
		nil,
		0.45,
	},
	{
		3,
		[]string{"get my credit paid back", "refund of my credit balance", "overpaid money back"},
		[]string{"refund"},
		nil,
		0.30,
	},
	{
		3,
		[]string{"change my email address", "new phone number", "update my name after the wedding"},
		[]string{"change-details"},
		nil,
		0.15,
	},
	{
		3,
		[]string{"register solar panels", "installer certificate where to send", "new panels start export"},
		[]string{"register-panels"},
		[]string{"Solar or battery"},
		0.20,
	},
	{
		3,
		[]string{"heat pump tariff", "do you have a tariff for heat pumps", "cheaper rate for a heat pump"},
		nil,
		nil,
		0.15,
	},
	{
		2,
		[]string{"lights flicker", "lamps dim when the heater starts"},
		[]string{"flickering-lights"},
		[]string{"My power is off", "Only my home is dark"},
		0.20,
	},
	{2, []string{"become a member", "what does membership cost"}, []string{"become-a-member"}, nil, 0.04},
	{2, []string{"make a complaint", "I want to complain"}, []string{"complain"}, nil, 0.50},
	{
		2,
		[]string{"medical equipment priority list", "oxygen machine what if power fails"},
		[]string{"depends-on-electricity"},
		nil,
		0.15,
	},
	{
		2,
		[]string{"rent a battery price", "how much is a battery rental"},
		[]string{"rent-a-battery"},
		[]string{"Solar or battery"},
		0.20,
	},
	{2, []string{"letter about planned work", "planned power off in my street"}, []string{"planned-work"}, nil, 0.08},
	{
		1,
		[]string{"wire on the road", "tree on the line sparks"},
		[]string{"line-is-down"},
		[]string{"My power is off", "A line is down"},
		0.50,
	},
	{1, []string{"leave the co-operative", "switch supplier exit fee"}, []string{"leave"}, nil, 0.15},
	{1, []string{"landlord empty flat bill", "who pays between tenants"}, []string{"landlords"}, nil, 0.15},
	{1, []string{"use of the meeting room", "school visit to the wind turbine"}, nil, nil, 0.30},
}

// storm is the theme that a storm makes everybody ask about.
const storm = 3
