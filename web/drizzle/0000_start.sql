CREATE TABLE "assets" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"document" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"thumbnail" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	"deleted_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "blobs" (
	"hash" text PRIMARY KEY NOT NULL,
	"bytes" integer NOT NULL,
	"kind" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "edits" (
	"id" serial PRIMARY KEY NOT NULL,
	"asset_id" text NOT NULL,
	"version" integer NOT NULL,
	"command" jsonb NOT NULL,
	"words" text NOT NULL,
	"patches" jsonb NOT NULL,
	"inverse" jsonb NOT NULL,
	"undone" boolean DEFAULT false NOT NULL,
	"dropped" boolean DEFAULT false NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "results" (
	"asset_id" text NOT NULL,
	"stage" text NOT NULL,
	"hash" text NOT NULL,
	"figures" jsonb NOT NULL,
	"blobs" jsonb NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "results_asset_id_stage_hash_pk" PRIMARY KEY("asset_id","stage","hash")
);
--> statement-breakpoint
CREATE TABLE "trials" (
	"id" text PRIMARY KEY NOT NULL,
	"asset_id" text NOT NULL,
	"stage" text NOT NULL,
	"title" text NOT NULL,
	"settings" jsonb NOT NULL,
	"figures" jsonb NOT NULL,
	"milliseconds" integer NOT NULL,
	"thumbnail" text,
	"verdict" text DEFAULT 'open' NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "edits" ADD CONSTRAINT "edits_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "results" ADD CONSTRAINT "results_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trials" ADD CONSTRAINT "trials_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "edits_asset" ON "edits" USING btree ("asset_id","id");--> statement-breakpoint
CREATE INDEX "trials_asset" ON "trials" USING btree ("asset_id","at");