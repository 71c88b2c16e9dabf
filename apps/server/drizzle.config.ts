import { defineConfig } from 'drizzle-kit';

export default defineConfig({ dialect: 'sqlite', schema: './dist/database/schema.js', out: './drizzle' });
